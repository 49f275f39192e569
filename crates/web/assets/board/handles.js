// Handles of what is picked: corners, edges, bends; arc and throw of a head. Dragging one shows
// the shape as it would be; letting go sends one gesture.

import { direction, distance, isOpen, make, middle, pathOf, pointOf, ringsOf, toward } from "./shape.js";

export const drawHandles = (over, element) => {
  const at = ([x, y], kind, data) => {
    const g = make(
      "g",
      { class: `handle ${kind}`, transform: `translate(${x} ${-y})`, "data-handle": kind, ...data },
      over,
    );
    const px = make("g", { class: "px" }, g);
    make("circle", { class: "grip", r: 14 }, px);
    if (kind === "corner" || kind === "move") make("rect", { x: -5, y: -5, width: 10, height: 10 }, px);
    else make("circle", { r: 5 }, px);
  };
  const rings = ringsOf(element);
  if (element.classList.contains("pipe")) {
    const [way] = rings;
    for (let i = 0; i + 1 < way.length; i++)
      at(middle(way[i], way[i + 1]), "insert", { "data-ring": 0, "data-index": i });
    way.forEach((p, i) => at(p, "corner", { "data-ring": 0, "data-index": i }));
    return;
  }
  if (rings) {
    rings.forEach((ring, r) => {
      if (ring.length > 250) return;
      const last = isOpen(element) ? ring.length - 1 : ring.length;
      for (let i = 0; i < last; i++) {
        const [a, b] = [ring[i], ring[(i + 1) % ring.length]];
        // In the middle the edge bends; a quarter along it moves as it is, where it is long enough.
        at(middle(a, b), "bend", { "data-ring": r, "data-index": i });
        if (!a[2])
          at([a[0] + (b[0] - a[0]) * 0.25, a[1] + (b[1] - a[1]) * 0.25], "move", {
            "data-ring": r,
            "data-index": i,
          });
      }
      ring.forEach((corner, i) => at(corner, "corner", { "data-ring": r, "data-index": i }));
    });
    return;
  }
  // Strips are turned and set by typed figures.
  if (element.classList.contains("head") && !element.dataset.strip) {
    const p = pointOf(element);
    const { facing, arc, radius } = element.dataset;
    at(toward(p, Number(facing), Number(radius)), "throw", {});
    if (Number(arc) < 360) {
      at(toward(p, Number(facing) - Number(arc) / 2, Number(radius)), "arc", { "data-side": -1 });
      at(toward(p, Number(facing) + Number(arc) / 2, Number(radius)), "arc", { "data-side": 1 });
    }
  }
};

const whole = (degrees) => Math.round(degrees);

/** The rings of a shape while one of its handles is dragged to a point. */
export const dragged = (element, handle, p) => {
  const rings = ringsOf(element);
  const ring = rings[Number(handle.dataset.ring)];
  const i = Number(handle.dataset.index);
  if (handle.dataset.handle === "corner") {
    ring[i] = [p[0], p[1], ring[i][2]];
    return rings;
  }
  if (handle.dataset.handle === "insert") {
    ring.splice(i + 1, 0, p);
    return rings;
  }
  const j = (i + 1) % ring.length;
  const [a, b] = [ring[i], ring[j]];
  if (handle.dataset.handle === "move") {
    const [dx, dy] = edgeShift(a, b, p);
    ring[i] = [a[0] + dx, a[1] + dy, a[2]];
    ring[j] = [b[0] + dx, b[1] + dy, b[2]];
    return rings;
  }
  ring[i] = [a[0], a[1], (2 * riseOf(a, b, p)) / distance(a, b)];
  return rings;
};

/** How far a point lies to the right of a chord. */
export const riseOf = (a, b, p) =>
  ((p[0] - a[0]) * (b[1] - a[1]) - (p[1] - a[1]) * (b[0] - a[0])) / distance(a, b);

/** An edge moves square to itself. */
const edgeShift = (a, b, p) => {
  const [rise, length] = [riseOf(a, b, p), distance(a, b)];
  return [((b[1] - a[1]) / length) * rise, (-(b[0] - a[0]) / length) * rise];
};

/** The gesture that a dragged handle of a shape ends in. */
export const shapeGesture = (element, handle, p, fine) => {
  const [id, ring, index] = [element.dataset.id, Number(handle.dataset.ring), Number(handle.dataset.index)];
  if (handle.dataset.handle === "corner") return { do: "corner", id, ring, index, to: p };
  if (handle.dataset.handle === "insert") return { do: "insert-corner", id, ring, edge: index, at: p };
  const corners = ringsOf(element)[ring];
  if (handle.dataset.handle === "move")
    return {
      do: "edge",
      id,
      ring,
      edge: index,
      by: edgeShift(corners[index], corners[(index + 1) % corners.length], p),
    };
  const rise = riseOf(corners[index], corners[(index + 1) % corners.length], p);
  // Nearly straight is straight.
  return { do: "bend", id, ring, edge: index, rise: `${Math.abs(rise) < fine ? 0 : rise} m` };
};

/** Arc, facing and throw of a head while one of its handles is dragged. */
export const headDragged = (element, handle, p) => {
  const at = pointOf(element);
  let [facing, arc, radius] = [
    Number(element.dataset.facing),
    Number(element.dataset.arc),
    Number(element.dataset.radius),
  ];
  if (handle.dataset.handle === "throw") {
    const full = Number(element.dataset.full);
    radius = Math.min(full, Math.max(full * 0.75, distance(at, p)));
    const turned = direction(at, p);
    // Round the head it turns; along its throw it only shortens.
    if (Math.abs(((turned - facing + 540) % 360) - 180) > 6) facing = whole(turned);
  } else {
    const side = Number(handle.dataset.side);
    const fixed = facing - (side * arc) / 2;
    const end = direction(at, p);
    arc = whole((side * (end - fixed) + 720) % 360);
    for (const usual of [90, 120, 180, 240, 270]) if (Math.abs(arc - usual) < 4) arc = usual;
    facing = (fixed + (side * arc) / 2 + 360) % 360;
  }
  return { facing, arc, radius };
};

export const sector = ([x, y], { facing, arc, radius }) => {
  const half = `A${radius} ${radius} 0 1 0`;
  if (arc >= 360) return `M${x + radius} ${-y}${half} ${x - radius} ${-y}${half} ${x + radius} ${-y}Z`;
  const [a, b] = [toward([x, y], facing - arc / 2, radius), toward([x, y], facing + arc / 2, radius)];
  return `M${x} ${-y}L${a[0]} ${-a[1]}A${radius} ${radius} 0 ${+(arc > 180)} 0 ${b[0]} ${-b[1]}Z`;
};

export { pathOf };
