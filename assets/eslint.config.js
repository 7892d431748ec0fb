import js from "@eslint/js";
import globals from "globals";

const strict = { eqeqeq: "error", "no-var": "error", "prefer-const": "error" };

export default [
  { ignores: ["**/htmx.min.js", "**/idb.js"] },
  js.configs.recommended,
  { files: ["src/**/*.js"], languageOptions: { globals: { ...globals.browser, htmx: "readonly" } }, rules: strict },
  { files: ["src/eyot/phone/static/**/*.js"], languageOptions: { globals: globals.serviceworker } },
  { files: ["tests/**/*.js"], languageOptions: { globals: globals.node }, rules: strict },
];
