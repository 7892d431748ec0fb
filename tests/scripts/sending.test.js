// Pictures on their way to the inbox: all of them come, once, whatever stops in between; then the drop ends.
import assert from "node:assert/strict";
import { beforeEach, test } from "node:test";
import "../../assets/node_modules/fake-indexeddb/auto/index.mjs";
import { dropsOf, forgetDrop, forgetPicture, keepPicture, waitingFor } from "../../src/eyot/shared/static/js/pictures.js";
import { Sending } from "../../src/eyot/shared/static/js/sending.js";
import { quiet } from "./page.js";

const URLS = { add: "/in/a/inbox/add/", end: "/in/a/inbox/end/" };
let sent, ended, answers, told, waits;

const file = (name, lastModified) => new File([name], name, { lastModified });
const sending = () => new Sending(URLS, () => ({ "X-CSRFToken": "token" }), (one) => { told = { ...one, troubles: [...one.troubles] }; });
const names = () => sent.map((one) => one.name);

beforeEach(async () => {
  [sent, ended, answers, told, waits] = [[], [], [], null, []];
  for (const url of [URLS.add, "/in/b/inbox/add/"]) {
    for (const { key } of await waitingFor(url)) await forgetPicture(key);
    for (const { drop } of await dropsOf(url)) await forgetDrop(drop);
  }
  globalThis.setTimeout = (work, delay) => { waits.push({ work, delay }); return waits.length; };
  globalThis.clearTimeout = () => {};
  globalThis.fetch = async (url, { body, headers }) => {
    const status = answers.shift() ?? 204;
    if (status === "never") return new Promise(() => {});
    if (status instanceof Error) throw status;
    const number = typeof status === "number" ? status : 422;
    if (number < 300 && url === URLS.end) ended.push(body.get("drop"));
    if (number < 300 && url === URLS.add) sent.push({ name: body.get("photo").name, drop: body.get("drop"), place: body.get("place"), modified: body.get("modified"), token: headers["X-CSRFToken"] });
    return { status: number, headers: { get: () => "text/plain" }, text: async () => (typeof status === "string" ? status : "") };
  };
});

test("all go off in the order in which they were taken, names as people count, and then the drop ends", async () => {
  await sending().add([file("shot-10.jpg", 5), file("shot-9.jpg", 5), file("first.jpg", 1)]);
  assert.deepEqual(names().sort(), ["first.jpg", "shot-10.jpg", "shot-9.jpg"]);
  assert.deepEqual(Object.fromEntries(sent.map((one) => [one.name, one.place])), { "first.jpg": "0", "shot-9.jpg": "1", "shot-10.jpg": "2" });
  assert.equal(sent[0].token, "token");
  assert.equal(sent.find((one) => one.name === "first.jpg").modified, "1");
  assert.deepEqual(ended, [sent[0].drop]);
  assert.deepEqual([told.state, told.sent, told.total], ["sent", 3, 3]);
  assert.deepEqual(await waitingFor(URLS.add), []);
  assert.deepEqual(await dropsOf(URLS.add), []);
});

test("without an answer it waits longer and longer, goes on by itself, and counts each once", async () => {
  answers = [new Error("no signal"), 503];
  const one = sending();
  await one.add([file("a.jpg", 1)]);
  assert.deepEqual([told.state, names(), waits.map(({ delay }) => delay)], ["waiting", [], [2000]]);
  await waits[0].work();
  assert.deepEqual(waits.map(({ delay }) => delay), [2000, 5000]);
  assert.deepEqual(ended, [], "a drop that was not sent whole has not ended");
  await one.go();
  assert.deepEqual([names(), told.state, ended.length], [["a.jpg"], "sent", 1]);
});

test("paused it sends nothing more, and goes on where it stood", async () => {
  const one = sending(), before = globalThis.fetch;
  globalThis.fetch = async (...how) => { one.pause(); return before(...how); };
  await one.add(["a.jpg", "b.jpg", "c.jpg", "d.jpg"].map((name, at) => file(name, at)));
  assert.equal(told.state, "paused");
  assert.ok(sent.length <= 2 && sent.length > 0);
  globalThis.fetch = before;
  await one.go();
  assert.deepEqual(names().sort(), ["a.jpg", "b.jpg", "c.jpg", "d.jpg"]);
  assert.equal(ended.length, 1);
});

test("a page that was closed is followed by one that goes on, and leaves those of other collections", async () => {
  answers = ["never", "never"];
  sending().add([file("a.jpg", 1), file("b.jpg", 2), file("c.jpg", 3)]);
  await quiet();
  await keepPicture({ key: "other", drop: "x", place: 0, name: "theirs.jpg", modified: 1, file: file("theirs.jpg", 1), url: "/in/b/inbox/add/" });
  answers = [];
  const next = sending();
  await next.resume();
  assert.deepEqual(names().sort(), ["a.jpg", "b.jpg", "c.jpg"]);
  assert.deepEqual([told.total, ended.length], [3, 1]);
  assert.equal((await waitingFor("/in/b/inbox/add/")).length, 1);
});

test("what the server does not take is told by name and stops nothing", async () => {
  answers = ["Something else was sent under this number already."];
  await sending().add([file("a.jpg", 1), file("b.jpg", 2)]);
  assert.deepEqual(told.troubles, ["a.jpg: Something else was sent under this number already."]);
  assert.deepEqual([names(), told.state], [["b.jpg"], "sent"]);
});

test("a login that has run out keeps everything", async () => {
  answers = [401, 401];
  await sending().add([file("a.jpg", 1), file("b.jpg", 2)]);
  assert.equal(told.state, "paused");
  assert.match(told.troubles[0], /log in again/);
  assert.equal((await waitingFor(URLS.add)).length, 2);
});

test("a device without room sends all the same, and says that the page must stay", async () => {
  const { IDBObjectStore } = globalThis, put = IDBObjectStore.prototype.put;
  IDBObjectStore.prototype.put = function full() { throw new DOMException("full", "QuotaExceededError"); };
  try {
    await sending().add([file("a.jpg", 1)]);
  } finally {
    IDBObjectStore.prototype.put = put;
  }
  assert.deepEqual(names(), ["a.jpg"]);
  assert.match(told.troubles[0], /leave this page open/);
});
