// As much of a browser as the outbox needs, for tests without one.

/** Sets up storage, page and network; `answers` are taken in turn by `fetch`: a status, one with type and text, or an error to throw. */
export function standIn() {
  const kept = new Map(), sent = [], line = { textContent: "", hidden: true }, told = [];
  const page = {
    sent,
    line,
    told,
    answers: [],
    shelf: () => JSON.parse(kept.get("eyot-outbox") || "[]"),
    aside: () => JSON.parse(kept.get("eyot-outbox-aside") || "[]"),
    loggedIn: true,
    onFetch: null,
  };
  globalThis.localStorage = { getItem: (name) => kept.get(name) ?? null, setItem: (name, value) => kept.set(name, value) };
  globalThis.document = {
    getElementById: () => line,
    querySelector: () => (page.loggedIn ? null : {}),
    body: { getAttribute: () => '{"X-CSRFToken": "token"}' },
    dispatchEvent: (event) => told.push(event.type),
  };
  globalThis.indexedDB = { open: () => { throw new Error("no pictures here"); } };
  globalThis.location = { pathname: "/clutches/W-04/", search: "", href: "" };
  globalThis.fetch = async (url, { body }) => {
    sent.push({ url, values: Object.fromEntries(body) });
    page.onFetch?.();
    const answer = page.answers.shift() ?? 200;
    if (answer instanceof Error) throw answer;
    const { status, type = "text/html", text = "" } = typeof answer === "number" ? { status: answer } : answer;
    return { status, headers: { get: () => type }, text: async () => text };
  };
  return page;
}
