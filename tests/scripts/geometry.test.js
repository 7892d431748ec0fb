// Points, lines and views: facts that can be reckoned by hand.
import assert from "node:assert/strict";
import { test } from "node:test";
import { distance, inside, nearest, read, segment, shownPart, smooth, thinned, within, written, zoomed } from "../../src/eyot/shared/static/js/geometry.js";

const BENT = /** @type {[number, number][]} */ ([[0, 0], [100, 0], [100, 50]]);
const WHOLE = { width: 1200, height: 161 };

test("a value is kept within bounds", () => {
  assert.deepEqual([within(-1, 0, 5), within(3, 0, 5), within(9, 0, 5)], [0, 3, 5]);
});

test("distances", () => {
  assert.equal(distance([0, 0], [3, 4]), 5);
});

test("a smooth line goes through every point and is none for a single one", () => {
  assert.equal(smooth([[1, 2]]), "");
  const path = smooth(BENT);
  assert.ok(path.startsWith("M0,0C"));
  assert.equal(path.match(/C/g).length, BENT.length - 1);
  assert.ok(path.endsWith(" 100,50"));
});

test("two points are joined by a straight line", () => {
  const [, numbers] = smooth([[0, 0], [60, 30]]).split("C");
  for (const [x, y] of numbers.split(" ").map((pair) => pair.split(",").map(Number))) assert.equal(y, x / 2);
});

test("the nearest point is the one a finger means, if it is near", () => {
  assert.equal(nearest(BENT, [97, 3], 10), 1);
  assert.equal(nearest(BENT, [50, 30], 10), -1);
  assert.equal(nearest([], [0, 0], 10), -1);
});

test("of two points the nearer one is taken", () => {
  assert.equal(nearest([[0, 0], [8, 0]], [6, 0], 10), 1);
});

test("a tap on the line lies between two points", () => {
  assert.equal(segment(BENT, [40, 5], 14), 0);
  assert.equal(segment(BENT, [104, 30], 14), 1);
  assert.equal(segment(BENT, [40, 20], 14), -1);
  assert.equal(segment(BENT, [-20, 0], 14), -1, "beyond its end is off the line");
});

test("a trail is thinned to even distances with both ends", () => {
  const trail = /** @type {[number, number][]} */ (Array.from({ length: 101 }, (_, x) => [x, 0]));
  assert.deepEqual(thinned(trail, 5), [[0, 0], [25, 0], [50, 0], [75, 0], [100, 0]]);
});

test("a finger that lingers does not crowd the points", () => {
  const lingering = /** @type {[number, number][]} */ ([...Array(50).fill([0, 0]), [50, 0], [100, 0]]);
  assert.deepEqual(thinned(lingering, 3), [[0, 0], [50, 0], [100, 0]]);
});

test("points are written and read back", () => {
  assert.equal(written([[1, 2], [3.26, 4]]), "1.0,2.0 3.3,4.0");
  assert.deepEqual(read(" 1.0,2.0  3.3,4.0 "), [[1, 2], [3.3, 4]]);
  assert.deepEqual(read("1,2 nonsense 3 4,5,6 7,x 8,9"), [[1, 2], [8, 9]]);
  assert.deepEqual(read(""), []);
});

test("a picture keeps its proportions in its frame", () => {
  const wide = shownPart({ left: 10, top: 20, width: 400, height: 400 }, { width: 800, height: 400 });
  assert.deepEqual(wide, { left: 10, top: 120, width: 400, height: 200 });
  const tall = shownPart({ left: 0, top: 0, width: 400, height: 200 }, { width: 100, height: 200 });
  assert.deepEqual(tall, { left: 150, top: 0, width: 100, height: 200 });
});

test("a view stays inside the whole, and between all of it and a twelfth", () => {
  assert.deepEqual(inside({ x: -50, y: 500, width: 600, height: 0 }, WHOLE), { x: 0, y: 80.5, width: 600, height: 80.5 });
  assert.equal(inside({ x: 0, y: 0, width: 10, height: 0 }, WHOLE).width, 100);
  assert.deepEqual(inside({ x: 7, y: 7, width: 5000, height: 0 }, WHOLE), { x: 0, y: 0, ...WHOLE });
});

test("zooming keeps the place under the pointer where it is", () => {
  const view = { x: 200, y: 20, width: 600, height: 80.5 }, around = { x: 0.25, y: 0.5 };
  const closer = zoomed(view, 2, around, WHOLE);
  assert.equal(closer.width, 300);
  assert.equal(closer.x + closer.width * around.x, view.x + view.width * around.x);
  assert.ok(Math.abs(closer.y + closer.height * around.y - (view.y + view.height * around.y)) < 1e-9);
});

test("zooming out ends at the whole", () => {
  assert.deepEqual(zoomed({ x: 500, y: 40, width: 300, height: 40 }, 1 / 12, { x: 0.5, y: 0.5 }, WHOLE), { x: 0, y: 0, ...WHOLE });
});
