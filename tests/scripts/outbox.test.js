// The outbox: what is entered stays on the device until the server has decided, and goes off in its order.
import assert from "node:assert/strict";
import { beforeEach, test } from "node:test";
import { emptyShelf, quiet, standIn } from "./page.js";

let page, entries, keepAnswers, remaining, sendAll, shelve;
let count = 0;
beforeEach(async () => {
  page = standIn();
  await emptyShelf();
  // A module of its own for each test, as each page has.
  ({ entries, keepAnswers, remaining, sendAll, shelve } = await import(`../../src/eyot/shared/static/js/outbox.js?${count += 1}`));
});

const urls = () => page.sent.map((entry) => entry.url);
const shelf = async () => (await entries()).map((entry) => entry.url);

test("what is shelved has a key of its own, the moment, and stays there", async () => {
  const first = await shelve("/a/", { level: "floating" }), second = await shelve("/a/", { level: "floating" });
  assert.match(first.key, /^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  assert.notEqual(first.key, second.key);
  assert.ok(Math.abs(Date.now() - Date.parse(first.entered)) < 60_000);
  assert.deepEqual(await shelf(), ["/a/", "/a/"]);
});

test("an entry under a key that is there already takes its place", async () => {
  await shelve("/a/", { key: "k", level: "floating" });
  await shelve("/a/", { key: "k", level: "mixed" });
  assert.deepEqual((await entries()).map((entry) => entry.values.level), ["mixed"]);
});

test("entries go off oldest first and leave the shelf when the server has them", async () => {
  await shelve("/a/", { n: "1" });
  await shelve("/b/", { n: "2" });
  assert.equal(await sendAll(), true);
  assert.deepEqual(urls(), ["/a/", "/b/"]);
  assert.deepEqual(remaining(), { arriving: 0, waiting: 0, aside: 0 });
});

test("a picture lies with its entry and goes off with it", async () => {
  await shelve("/photo/", {}, { file: new File(["picture"], "egg.jpg", { type: "image/jpeg" }) });
  await sendAll();
  assert.equal(page.sent[0].values.photo.name, "egg.jpg");
  assert.equal(await page.sent[0].values.photo.text(), "picture");
});

test("how long an entry waited can be told from its moments, whatever the clock says", async () => {
  await shelve("/a/", {});
  await sendAll();
  const { entered, sent } = page.sent[0].values;
  assert.ok(Date.parse(sent) >= Date.parse(entered));
});

test("without an answer the rest waits in its order", async () => {
  await shelve("/a/", {});
  await shelve("/b/", {});
  page.answers = [new Error("no signal")];
  assert.equal(await sendAll(), false);
  assert.deepEqual(urls(), ["/a/"]);
  assert.deepEqual(await shelf(), ["/a/", "/b/"]);
  assert.match(page.line.textContent, /2 entries are kept on this device until there is a connection/);
});

test("a server that is away or has no room keeps the entry waiting, with its words", async () => {
  await shelve("/a/", {});
  page.answers = [503];
  await sendAll();
  page.answers = [{ status: 507, text: "The disk is full." }];
  await sendAll();
  assert.deepEqual(remaining(), { arriving: 0, waiting: 1, aside: 0 });
  assert.match(page.line.textContent, /The disk is full/);
});

for (const [status, text, reason] of [
  [422, "Egg 3 is not open.", /Egg 3 is not open/],
  [404, "", /not here any more, or not open to you/],
  [403, "You are reader here. Nothing was changed.", /You are reader here/],
  [413, "", /larger than can be taken/],
  [400, "That can’t be kept.", /That can’t be kept/],
]) {
  test(`what is not taken (${status}) is set aside with its reason, and the rest goes on`, async () => {
    await keepAnswers();
    await shelve("/not/", { level: "floating" }, { words: "egg 3: floating" });
    await shelve("/a/", {});
    page.answers = [{ status, text }];
    assert.equal(await sendAll(), true);
    await quiet();
    assert.deepEqual(urls(), ["/not/", "/a/"]);
    assert.deepEqual(remaining(), { arriving: 0, waiting: 0, aside: 1 });
    assert.match(page.aside()[0].textContent, /^egg 3: floating/);
    assert.match(page.aside()[0].textContent, reason);
    assert.ok(page.told.includes("eyot:changed"), "the page is to show what the server has");
  });
}

test("what was set aside stays until the keeper sends it again or throws it away", async () => {
  await keepAnswers();
  await shelve("/a/", { level: "floating" });
  await shelve("/b/", { level: "mixed" });
  page.answers = [422, 422];
  await sendAll();
  await sendAll();
  await quiet();
  assert.deepEqual(urls(), ["/a/", "/b/"], "nothing is sent again by itself");
  await page.press("Send it again");
  assert.deepEqual(urls(), ["/a/", "/b/", "/a/"]);
  await page.press("Throw it away");
  assert.equal(page.aside().length, 0);
  assert.deepEqual(remaining(), { arriving: 0, waiting: 0, aside: 0 });
});

test("what was chosen on a page that was no longer true is asked once more", async () => {
  await keepAnswers();
  await shelve("/state/", { state: "open", was: "shut" });
  page.answers = [{ status: 409, text: "Egg 4 was set to slug.", stands: "slug" }];
  await sendAll();
  await quiet();
  assert.match(page.aside()[0].textContent, /Egg 4 was set to slug/);
  await page.press("Set it all the same");
  assert.deepEqual(page.sent.at(-1).values.was, "slug");
  assert.equal(page.aside().length, 0);
});

test("an entry over which the server breaks waits twice, then steps aside for the others", async () => {
  await shelve("/breaks/", {});
  await shelve("/a/", {});
  for (let turn = 0; turn < 3; turn += 1) {
    page.answers = [500];
    await sendAll();
  }
  assert.deepEqual(urls(), ["/breaks/", "/breaks/", "/breaks/", "/a/"]);
  assert.deepEqual(remaining(), { arriving: 0, waiting: 0, aside: 1 });
});

test("a form token that grew stale is fetched anew", async () => {
  await shelve("/a/", {});
  page.answers = [{ status: 403, type: "text/html" }];
  page.tokens = [{ token: "fresh", person: "7" }];
  assert.equal(await sendAll(), true);
  assert.deepEqual(page.sent.map((entry) => entry.token), ["token", "fresh"]);
});

test("nothing is sent under somebody else's login", async () => {
  await shelve("/a/", {});
  page.answers = [{ status: 403, type: "text/html" }];
  page.tokens = [{ token: "fresh", person: "8" }];
  assert.equal(await sendAll(), false);
  assert.deepEqual(remaining(), { arriving: 0, waiting: 1, aside: 0 });
  assert.match(page.line.textContent, /somebody else is logged in/);
});

test("another's entries are neither sent nor dropped", async () => {
  await shelve("/a/", {});
  page.document.body.dataset.person = "8";
  await shelve("/b/", {});
  await sendAll();
  assert.deepEqual(urls(), ["/b/"]);
  page.document.body.dataset.person = "7";
  assert.deepEqual(await shelf(), ["/a/"]);
});

test("a login that ran out keeps the entry and asks for it", async () => {
  await shelve("/a/", {});
  page.answers = [401];
  assert.equal(await sendAll(), false);
  assert.deepEqual(await shelf(), ["/a/"]);
  assert.match(page.line.textContent, /log in again/);
  page.later.forEach((work) => work());
  assert.equal(globalThis.location.href, "/login/?next=%2Fclutches%2FW-04%2F");
});

const HALF = `<main><form id="sent"><input name="key"></form><form id="other"><textarea name="note"></textarea></form></main>`;
const write = (form, words) => { page.document.querySelector(`#${form} [name]`).value = words; };
const event = (type, detail) => page.document.body.dispatchEvent(new page.document.defaultView.CustomEvent(type, { bubbles: true, detail }));

test("a login that ran out takes nobody away from what he is writing", async () => {
  page.document.body.insertAdjacentHTML("beforeend", HALF);
  await keepAnswers();
  write("sent", "k");
  write("other", "Checkered, I");
  const answered = (id) => event("htmx:afterRequest", { requestConfig: { elt: page.document.getElementById(id), verb: "post", parameters: { key: "k" } }, xhr: { status: 401 } });
  answered("sent");
  assert.match(page.line.textContent, /kept on this device, and what you are writing stays here/);
  assert.equal(page.later.length, 0);
  write("other", "");
  answered("sent");
  page.later.forEach((work) => work());
  assert.match(globalThis.location.href, /^\/login\//);
});

test("what was late is shown by drawing the page anew, and in part where something is half entered", async () => {
  page.document.body.insertAdjacentHTML("beforeend", HALF);
  write("other", "Checkered, I");
  await shelve("/a/", {});
  await keepAnswers();
  assert.deepEqual([urls(), page.told.filter((one) => one !== "eyot:sent")], [["/a/"], ["eyot:changed"]]);
  write("other", "");
  await shelve("/b/", {});
  await keepAnswers();
  assert.deepEqual([urls(), page.told.at(-1)], [["/a/", "/b/"], "reload"]);
});

test("nothing is sent from the login page", async () => {
  await shelve("/a/", {});
  page.document.body.insertAdjacentHTML("beforeend", `<form class="login"></form>`);
  await sendAll();
  assert.deepEqual(urls(), []);
});

test("whoever logs out hears first what waits", async () => {
  await keepAnswers();
  page.document.body.insertAdjacentHTML("beforeend", `<form action="http://eyot.test/logout/"></form>`);
  const leave = () => page.document.querySelector("form").dispatchEvent(new page.document.defaultView.Event("submit", { bubbles: true, cancelable: true }));
  assert.equal(leave(), true, "nothing waits");
  await shelve("/a/", {});
  assert.equal(leave(), false);
  assert.match(page.line.textContent, /1 entry waits on this device/);
  assert.equal(leave(), true, "once heard, he may go");
});

test("two runs at once send each entry once, and what is entered meanwhile goes off behind", async () => {
  await shelve("/a/", {});
  let late = null;
  page.onFetch = () => { page.onFetch = null; late = shelve("/b/", {}); };
  const both = await Promise.all([sendAll(), sendAll()]);
  await late;
  await sendAll();
  assert.equal(both[0], true);
  assert.deepEqual(urls(), ["/a/", "/b/"]);
});

test("two windows send one after another, so that each entry goes off once and in its order", async () => {
  const other = await import(`../../src/eyot/shared/static/js/outbox.js?${count += 1}`);
  await shelve("/a/", {});
  await shelve("/b/", {});
  await Promise.all([sendAll(), other.sendAll()]);
  assert.deepEqual(urls(), ["/a/", "/b/"]);
});

test("what was entered a moment ago is left to the page that is sending it", async () => {
  await shelve("/a/", {});
  assert.equal(await sendAll(60_000), false);
  assert.deepEqual(urls(), []);
  assert.deepEqual(await shelf(), ["/a/"]);
});

test("what an earlier Eyot kept in another place is taken over", async () => {
  localStorage.setItem("eyot-outbox", JSON.stringify([{ url: "/old/", values: { key: "k-old", level: "mixed" }, at: 1, file: "" }]));
  await keepAnswers();
  await quiet();
  assert.deepEqual(urls(), ["/old/"]);
  assert.equal(localStorage.getItem("eyot-outbox"), null);
});

test("nothing counts as sent from the moment it is entered until the server has it", async () => {
  const said = [], body = page.document.body, show = (name) => said.push(body.dataset[name]);
  new page.document.defaultView.MutationObserver(() => show("unsent")).observe(body, { attributeFilter: ["data-unsent"] });
  page.onFetch = () => said.push("at the server");
  await shelve("/a/", {}).then(() => sendAll());
  assert.deepEqual(said.slice(said.indexOf("1")).filter((one, at, all) => one !== all[at - 1]), ["1", "at the server", "0"]);
  assert.ok(!said.slice(0, said.indexOf("1")).includes("0"));
});

test("a run that leaves the young to their page is followed by one that was asked for without", async () => {
  await shelve("/a/", {});
  const patient = sendAll(60_000);
  assert.equal(await sendAll(0), true);
  assert.equal(await patient, true);
  assert.deepEqual(urls(), ["/a/"]);
});

test("what is held back waits for its release, and goes off by itself where nobody decides", async () => {
  const { release } = await import(`../../src/eyot/shared/static/js/outbox.js?${count}`);
  const held = await shelve("/photo/", {}, { held: true });
  await shelve("/a/", {});
  await sendAll();
  assert.deepEqual(urls(), ["/a/"]);
  assert.equal(remaining().waiting, 1, "it is on the device meanwhile");
  await release(held.key);
  await sendAll();
  assert.deepEqual(urls(), ["/a/", "/photo/"]);
  await shelve("/late/", {}, { held: true });
  const next = await import(`../../src/eyot/shared/static/js/outbox.js?${count += 1}`);
  await next.sendAll();
  assert.deepEqual(urls(), ["/a/", "/photo/", "/late/"], "the page that held it is gone");
});
