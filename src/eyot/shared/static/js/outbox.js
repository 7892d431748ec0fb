// Answers are kept on the device until the server has them: a lost signal, an expired login or a stopped database loses nothing.
// Each answer carries a key of its own, so that one sent twice counts once.
const SHELF = "eyot-outbox";

const read = () => JSON.parse(localStorage.getItem(SHELF) || "[]");
const write = (kept) => localStorage.setItem(SHELF, JSON.stringify(kept));
const drop = (key) => write(read().filter((entry) => entry.values.key !== key));

function tell(words) {
  const line = document.getElementById("outbox");
  if (!line) return;
  line.textContent = words;
  line.hidden = !words;
}

const newKey = () => {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  bytes[6] = (bytes[6] & 0x0f) | 0x40;
  bytes[8] = (bytes[8] & 0x3f) | 0x80;
  const hex = [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
  return hex.replace(/(.{8})(.{4})(.{4})(.{4})(.{12})/, "$1-$2-$3-$4-$5");
};

async function send(entry) {
  const token = JSON.parse(document.body.getAttribute("hx-headers") || "{}")["X-CSRFToken"];
  const answer = await fetch(entry.url, {
    method: "POST",
    headers: { "X-CSRFToken": token, "HX-Request": "true" },
    body: new URLSearchParams(entry.values),
  });
  if (answer.ok || answer.status === 422 || answer.status === 404) drop(entry.values.key);
  return answer;
}

async function sendAll() {
  const kept = read();
  if (!kept.length || document.querySelector("form.login")) return;
  try {
    for (const entry of kept) {
      const answer = await send(entry);
      if (answer.status === 401) return askForLogin();
      if (answer.status >= 500) return tell(`${read().length} answers are kept on this device; the server does not answer just now.`);
    }
    location.reload();
  } catch {
    tell(`${read().length} answers are kept on this device until there is a connection.`);
  }
}

function askForLogin() {
  tell("Your login has run out. Your answer is kept on this device; log in again and it is sent.");
  const here = location.pathname + location.search;
  setTimeout(() => { location.href = `/login/?next=${encodeURIComponent(here)}`; }, 1200);
}

export function keepAnswers() {
  document.body.addEventListener("htmx:configRequest", (event) => {
    const { trait, level } = event.detail.elt.dataset;
    if (trait) Object.assign(event.detail.parameters, { trait, level, key: newKey() });
    if (trait || event.detail.parameters.key) {
      const values = Object.fromEntries(Object.entries(event.detail.parameters).filter(([name]) => name !== "csrfmiddlewaretoken"));
      write([...read(), { url: event.detail.path, values }]);
    }
  });
  document.body.addEventListener("htmx:afterRequest", (event) => {
    const key = event.detail.requestConfig.parameters.key;
    const status = event.detail.xhr.status;
    if (key && ((status >= 200 && status < 300) || status === 422 || status === 404)) {
      drop(key);
      tell("");
    } else if (status === 401) askForLogin();
    else tell("Kept on this device; the server does not answer just now. It is sent when it is back.");
  });
  addEventListener("online", sendAll);
  setInterval(() => { if (read().length) sendAll(); }, 8000);
  sendAll();
}
