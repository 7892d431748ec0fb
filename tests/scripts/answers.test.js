// Answers on the bench: seen at once, kept on the device, and sent one after another in the order in which they were given.
import assert from "node:assert/strict";
import { beforeEach, test } from "node:test";
import { openPage, row, settled } from "./browser.js";
import { quiet } from "./page.js"; // before any script, with what browsers have
import { entriesOf, forget } from "../../src/eyot/shared/static/js/shelf.js";

const BENCH = `<form id="how"><input name="stage" value="egg"><input name="confidence" value="sure"></form>
  <div data-bench="/clutches/W-04/1/looks/">
    <div id="judgement">${row("lobes", ["attached", "floating"])}${row("stripe", ["none", "full"])}</div>
    <div data-photo="p-1"><button data-accept data-trait="stripe" data-level="full" data-unsure>accept</button></div>
  </div>`;

let page;
let count = 0;
beforeEach(async () => {
  page = openPage(BENCH);
  for (const entry of await entriesOf("")) await forget(entry.key);
  // A module of its own for each test, as each page has.
  const { answerLooks } = await import(`../../src/eyot/shared/static/js/answers.js?${count += 1}`);
  answerLooks();
});

const press = (look, level) => page.document.querySelector(`[data-look="${look}"] [data-level="${level}"]`).click();
const pressed = (look) => [...page.document.querySelectorAll(`[data-look="${look}"] [aria-pressed="true"]`)].map((one) => one.dataset.level);
const kept = async () => { await quiet(); return (await entriesOf("")).map((entry) => entry.values.level); };
const busy = () => page.document.getElementById("judgement").hasAttribute("aria-busy");

test("an answer stands on the screen and on the device before anything is sent back", async () => {
  press("lobes", "floating");
  assert.deepEqual([pressed("lobes"), busy()], [["floating"], true]);
  assert.deepEqual(await kept(), ["floating"]);
  assert.equal(page.sent.length, 1);
  const { verb, url, values } = page.sent[0];
  assert.deepEqual([verb, url, values.trait, values.level, values.stage], ["POST", "/clutches/W-04/1/looks/", "lobes", "floating", "egg"]);
  assert.match(values.key, /^[0-9a-f-]{36}$/);
});

test("the second answer goes off when the first has come back, and not before", async () => {
  press("lobes", "floating");
  press("stripe", "full");
  await settled();
  assert.deepEqual(page.sent.map(({ values }) => values.trait), ["lobes"]);
  assert.deepEqual(await kept(), ["floating", "full"]);
  page.sent[0].done();
  await settled();
  assert.deepEqual(page.sent.map(({ values }) => values.trait), ["lobes", "stripe"]);
  assert.equal(busy(), true, "one is still under way");
  page.sent[1].done();
  await settled();
  assert.equal(busy(), false);
});

test("an answer that fails keeps back none of those after it", async () => {
  press("lobes", "floating");
  press("stripe", "full");
  await settled();
  page.sent[0].fails(new Error("no signal"));
  await settled();
  assert.equal(page.sent.length, 2);
});

test("another level takes the place of the one before on the screen; both are sent", async () => {
  press("lobes", "floating");
  press("lobes", "attached");
  assert.deepEqual(pressed("lobes"), ["attached"]);
  await settled();
  page.sent[0].done();
  await settled();
  assert.deepEqual(page.sent.map(({ values }) => values.level), ["floating", "attached"]);
  assert.notEqual(page.sent[0].values.key, page.sent[1].values.key);
});

test("what another answered is asked for in turn with one's own answers, and not while one is under way", async () => {
  const changed = () => page.document.dispatchEvent(new page.window.CustomEvent("eyot:changed"));
  changed();
  await settled();
  press("lobes", "floating");
  await settled();
  assert.deepEqual(page.sent.map(({ verb }) => verb), ["GET"]);
  page.sent[0].done();
  await settled();
  assert.deepEqual(page.sent.map(({ verb }) => verb), ["GET", "POST"]);
  changed();
  page.sent[1].done();
  await settled();
  assert.equal(page.sent.length, 2);
});

test("the server hears which rows the page shows, an answered one as differing", async () => {
  press("lobes", "floating");
  await settled();
  assert.equal(page.sent[0].shown, "lobes. stripe.0");
});

test("an unsure suggestion is accepted as likely, with its photo, and only once", async () => {
  const button = page.document.querySelector("[data-accept]");
  button.click();
  assert.deepEqual([pressed("stripe"), button.disabled], [["full"], true]);
  await settled();
  const { trait, level, photo, confidence } = page.sent[0].values;
  assert.deepEqual([trait, level, photo, confidence], ["stripe", "full", "p-1", "likely"]);
});
