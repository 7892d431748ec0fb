// Marking the light of a photo: one place for a card, four for a chart.
import assert from "node:assert/strict";
import { test } from "node:test";
import { LightMark } from "../../src/eyot/shared/static/js/light.js";

test("a card takes one place", () => {
  const mark = new LightMark("grey card");
  assert.equal(mark.wanted, "the grey card");
  assert.equal(mark.take({ x: 0.5, y: 0.25 }), true);
  assert.deepEqual(mark.corners, []);
});

test("a chart asks for its four corner patches one after another", () => {
  const mark = new LightMark("colour chart"), asked = [];
  const done = [[0.1, 0.1], [0.9, 0.1], [0.9, 0.9], [0.1, 0.90006]].map(([x, y]) => { asked.push(mark.wanted); return mark.take({ x, y }); });
  assert.deepEqual(done, [false, false, false, true]);
  assert.deepEqual(asked, ["brown", "bluish green", "black", "white"].map((patch) => `the ${patch} corner patch of the chart`));
  assert.deepEqual(mark.corners, ["0.1000,0.1000", "0.9000,0.1000", "0.9000,0.9000", "0.1000,0.9001"]);
});
