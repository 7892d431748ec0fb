// Points in pixels of a photo: lines through them, and which of them a finger means. Nothing here knows of a page.

/** @typedef {[number, number]} Point */

/**
 * @param {number} value
 * @param {number} least
 * @param {number} most
 */
export const within = (value, least, most) => Math.min(most, Math.max(least, value));

/**
 * How far two points lie apart.
 * @param {Point} a
 * @param {Point} b
 */
export const distance = (a, b) => Math.hypot(a[0] - b[0], a[1] - b[1]);

/**
 * A smooth line through the points, as cubic curves; the strip itself is cut along the server's spline.
 * @param {Point[]} points
 */
export function smooth(points) {
  if (points.length < 2) return "";
  let path = `M${points[0]}`;
  for (let i = 0; i < points.length - 1; i += 1) {
    const [a, b, c, d] = [points[i - 1] || points[i], points[i], points[i + 1], points[i + 2] || points[i + 1]];
    path += `C${b[0] + (c[0] - a[0]) / 6},${b[1] + (c[1] - a[1]) / 6} ${c[0] - (d[0] - b[0]) / 6},${c[1] - (d[1] - b[1]) / 6} ${c}`;
  }
  return path;
}

/**
 * The point nearest to a place within a reach, by its number; -1 where none is.
 * @param {Point[]} points
 * @param {Point} place
 * @param {number} reach
 */
export function nearest(points, place, reach) {
  const best = points.map((point) => distance(point, place)).reduce((least, far, index) => (far < least.far ? { far, index } : least), { far: reach, index: -1 });
  return best.index;
}

/**
 * Between which two points a tap on the line lies, by the number of the first; -1 off the line.
 * @param {Point[]} points
 * @param {Point} place
 * @param {number} reach
 */
export function segment(points, place, reach) {
  let best = { far: reach, index: -1 };
  for (let i = 0; i < points.length - 1; i += 1) {
    const [a, b] = [points[i], points[i + 1]];
    const along = within(((place[0] - a[0]) * (b[0] - a[0]) + (place[1] - a[1]) * (b[1] - a[1])) / (distance(a, b) ** 2 || 1), 0, 1);
    const far = distance(place, [a[0] + along * (b[0] - a[0]), a[1] + along * (b[1] - a[1])]);
    if (far < best.far) best = { far, index: i };
  }
  return best.index;
}

/**
 * Of the trail of a finger so many points at even distances along it, both ends among them.
 * @param {Point[]} trail
 * @param {number} count
 * @returns {Point[]}
 */
export function thinned(trail, count) {
  const lengths = [0];
  for (let i = 1; i < trail.length; i += 1) lengths.push(lengths[i - 1] + distance(trail[i - 1], trail[i]));
  const whole = lengths[lengths.length - 1];
  return Array.from({ length: count }, (_, step) => {
    const at = (whole * step) / (count - 1);
    return trail[Math.max(0, lengths.findIndex((length) => length >= at - 1e-6))];
  });
}

/**
 * Points as a form sends them: "12.0,34.5 13.1,40.0".
 * @param {Point[]} points
 */
export const written = (points) => points.map((point) => point.map((number) => number.toFixed(1)).join(",")).join(" ");

/**
 * The points in such a text; what is no pair of numbers is passed over.
 * @param {string} text
 * @returns {Point[]}
 */
export function read(text) {
  const places = text.trim().split(/\s+/).filter(Boolean).map((place) => place.split(",").map(Number));
  return /** @type {Point[]} */ (places.filter((place) => place.length === 2 && place.every(Number.isFinite)));
}

/**
 * Where in its frame a picture is shown that keeps its proportions.
 * @param {{left: number, top: number, width: number, height: number}} frame
 * @param {{width: number, height: number}} picture
 */
export function shownPart(frame, picture) {
  const size = Math.min(frame.width / picture.width, frame.height / picture.height);
  const width = picture.width * size, height = picture.height * size;
  return { left: frame.left + (frame.width - width) / 2, top: frame.top + (frame.height - height) / 2, width, height };
}

/** @typedef {{x: number, y: number, width: number, height: number}} View */

/**
 * A view into a picture, no larger than it and no smaller than a twelfth, moved to lie inside it.
 * @param {View} view
 * @param {{width: number, height: number}} whole
 * @returns {View}
 */
export function inside(view, whole) {
  const width = within(view.width, whole.width / 12, whole.width), height = (whole.height * width) / whole.width;
  return { width, height, x: within(view.x, 0, whole.width - width), y: within(view.y, 0, whole.height - height) };
}

/**
 * A view made smaller by a factor around a place in it (shares of its width and height).
 * @param {View} view
 * @param {number} factor
 * @param {{x: number, y: number}} around
 * @param {{width: number, height: number}} whole
 */
export function zoomed(view, factor, around, whole) {
  const width = within(view.width / factor, whole.width / 12, whole.width);
  const less = view.width - width;
  return inside({ width, height: 0, x: view.x + less * around.x, y: view.y + (less * whole.height * around.y) / whole.width }, whole);
}
