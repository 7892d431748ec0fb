// Answers are kept on the device until the server has them: a lost signal, an expired login or a stopped database loses nothing.
// Each answer carries a key of its own, so that one sent twice counts once.
const SHELF = "eyot-outbox";
const RETRY_MS = 8000;
const OVERDUE_MS = 6000;

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

// Puts an answer on the shelf under a key of its own; gives back the answer with its key.
export function shelve(url, values) {
  const kept = { key: newKey(), ...values };
  write([...read().filter((entry) => entry.values.key !== kept.key), { url, values: kept, at: Date.now() }]);
  return kept;
}

// Has the server decided on the answer? A refusal is told on the page, and need not be sent again.
const taken = (status) => (status >= 200 && status < 300) || status === 422 || status === 404;

async function send(entry) {
  const token = JSON.parse(document.body.getAttribute("hx-headers") || "{}")["X-CSRFToken"];
  const answer = await fetch(entry.url, {
    method: "POST",
    headers: { "X-CSRFToken": token, "HX-Request": "true" },
    body: new URLSearchParams(entry.values),
  });
  if (taken(answer.status)) drop(entry.values.key);
  return answer;
}

async function sendAll(kept) {
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
    const { csrfmiddlewaretoken, ...values } = Object.fromEntries(event.detail.formData);
    if (values.key) shelve(event.detail.path, values);
  });
  document.body.addEventListener("htmx:afterRequest", (event) => {
    const key = event.detail.requestConfig.parameters.key;
    const { status } = event.detail.xhr;
    if (taken(status)) {
      if (key) drop(key);
      tell("");
    } else if (status === 401) askForLogin();
    else if (key) tell("Kept on this device; the server does not answer just now. It is sent when it is back.");
    else tell("The server does not answer just now. Nothing was changed; try again in a moment.");
  });
  addEventListener("online", () => sendAll(read()));
  setInterval(() => sendAll(read().filter((entry) => Date.now() - entry.at > OVERDUE_MS)), RETRY_MS);
  sendAll(read());
}
