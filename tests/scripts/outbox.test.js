// The outbox: what is entered stays on the device until the server has decided, and goes off in its order.
import assert from "node:assert/strict";
import { beforeEach, test } from "node:test";
import { sendAll, shelve, waiting } from "../../src/eyot/shared/static/js/outbox.js";
import { standIn } from "./page.js";

let page;
beforeEach(() => { page = standIn(); });

const urls = () => page.sent.map((entry) => entry.url);

test("what is shelved has a key of its own and stays there", () => {
  const first = shelve("/a/", { level: "floating" }), second = shelve("/a/", { level: "floating" });
  assert.match(first.key, /^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  assert.notEqual(first.key, second.key);
  assert.equal(waiting(), 2);
});

test("an entry under a key that is there already takes its place", () => {
  shelve("/a/", { key: "k", level: "floating" });
  shelve("/a/", { key: "k", level: "mixed" });
  assert.deepEqual(page.shelf().map((entry) => entry.values.level), ["mixed"]);
});

test("entries go off oldest first and leave the shelf when the server has them", async () => {
  shelve("/a/", { n: "1" });
  shelve("/b/", { n: "2" });
  assert.equal(await sendAll(), true);
  assert.deepEqual(urls(), ["/a/", "/b/"]);
  assert.equal(waiting(), 0);
});

test("without an answer the rest waits in its order", async () => {
  shelve("/a/", {});
  shelve("/b/", {});
  page.answers = [new Error("no signal")];
  assert.equal(await sendAll(), false);
  assert.deepEqual(urls(), ["/a/"]);
  assert.deepEqual(page.shelf().map((entry) => entry.url), ["/a/", "/b/"]);
  assert.match(page.line.textContent, /2 entries are kept on this device until there is a connection/);
});

test("a server in trouble keeps the entry; a refusal is decided", async () => {
  shelve("/a/", {});
  page.answers = [503];
  await sendAll();
  assert.equal(waiting(), 1);
  page.answers = [422];
  await sendAll();
  assert.equal(waiting(), 0);
  assert.match(page.line.textContent, /refused/);
});

test("what belongs to nothing that is here is set aside on the device, and the rest goes on", async () => {
  shelve("/gone/", { level: "floating" });
  shelve("/a/", {});
  page.answers = [404];
  assert.equal(await sendAll(), true);
  assert.deepEqual(urls(), ["/gone/", "/a/"]);
  assert.equal(waiting(), 0);
  assert.deepEqual(page.aside().map((entry) => entry.values.level), ["floating"]);
});

test("what the role does not allow is told in its words and waits no longer; a token that ran out waits", async () => {
  shelve("/a/", {});
  page.answers = [403];
  await sendAll();
  assert.equal(waiting(), 1);
  page.answers = [{ status: 403, type: "text/plain", text: "You are reader here. Nothing was changed." }];
  assert.equal(await sendAll(), true);
  assert.equal(waiting(), 0);
  assert.match(page.line.textContent, /You are reader here/);
});

test("a login that ran out keeps the entry and asks for it", async () => {
  shelve("/a/", {});
  page.answers = [401];
  assert.equal(await sendAll(), false);
  assert.equal(waiting(), 1);
  assert.match(page.line.textContent, /log in again/);
});

test("nothing is sent from the login page", async () => {
  shelve("/a/", {});
  page.loggedIn = false;
  await sendAll();
  assert.deepEqual(urls(), []);
});

test("two runs at once send each entry once, and what is entered meanwhile goes off behind", async () => {
  shelve("/a/", {});
  page.onFetch = () => { page.onFetch = null; shelve("/b/", {}); };
  const [first, second] = await Promise.all([sendAll(), sendAll()]);
  assert.deepEqual([first, second], [true, true]);
  assert.deepEqual(urls(), ["/a/", "/b/"]);
});

test("what was entered a moment ago is left to the page that is sending it", async () => {
  shelve("/a/", {});
  assert.equal(await sendAll(60_000), false);
  assert.deepEqual(urls(), []);
  assert.equal(waiting(), 1);
});
