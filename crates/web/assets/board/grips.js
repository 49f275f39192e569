// What a hand may hold with the tool Pick: the ground itself, a thing, a handle of one, a box round
// several. Each has `move` while it is dragged and `drop` where it is let go.

import { dragged, headDragged, sector, shapeGesture } from "./handles.js";
import { showLength } from "./length.js";
import { distance, edgeLength, isOpen, make, pathOf, pointOf, ringsOf } from "./shape.js";

const drawn = (id) => document.getElementById(`t-${id}`);
/** More corners than this are not held against the ends of all others while they move. */
const MOST_ENDS = 400;

/** Figures of a head as they are drawn. */
export const headFigures = ({ dataset }) => ({
  facing: Number(dataset.facing),
  arc: Number(dataset.arc),
  radius: Number(dataset.radius),
});

/** Draws a shape along other points: of pipe all that is drawn along it. */
const outline = (element, rings) => {
  const d = pathOf(rings, !isOpen(element));
  const along = element.classList.contains("pipe") ? ":scope > path" : ":scope > path:first-of-type";
  element.querySelectorAll(along).forEach((path) => path.setAttribute("d", d));
};

/** Shows a thing again as it was before the hand began. */
export const restore = (element) => {
  if (!element) return;
  element.removeAttribute("transform");
  const rings = ringsOf(element);
  if (rings) outline(element, rings);
  else if (element.classList.contains("head") && !element.dataset.strip)
    element.querySelector(".throw").setAttribute("d", sector(pointOf(element), headFigures(element)));
};

const pan = {
  move(board, event, _, last) {
    board.view.pan(event.clientX - last[0], event.clientY - last[1]);
  },
};

const box = {
  move(board, event, hold) {
    const p = (hold.to = board.view.ground(event));
    const corners = [hold.p, [p[0], hold.p[1]], p, [hold.p[0], p[1]]];
    board.over.replaceChildren();
    make("path", { class: "box", d: pathOf([corners]) }, board.over);
  },

  drop(board, hold) {
    if (!hold.to) return;
    const [l, r] = [hold.p[0], hold.to[0]].sort((a, b) => a - b);
    const [b, t] = [hold.p[1], hold.to[1]].sort((a, c) => a - c);
    const within = (p) => p && p[0] >= l && p[0] <= r && p[1] >= b && p[1] <= t;
    const whole = (e) => (ringsOf(e)?.flat() ?? [pointOf(e)]).every(within);
    board.pick([...board.svg.querySelectorAll(".thing")].filter(whole).map((e) => e.dataset.id));
  },
};

const thing = {
  move(board, event, hold) {
    if (!hold.ids) {
      if (!board.picked.has(hold.id)) board.pick([hold.id]);
      hold.ids = [...board.picked];
      board.over.replaceChildren();
      hold.ends = hold.ids.flatMap((id) => ringsOf(drawn(id))?.flat() ?? [pointOf(drawn(id))]).filter(Boolean);
    }
    const p = board.view.ground(event);
    const free = [p[0] - hold.p[0], p[1] - hold.p[1]];
    const by = (hold.by = event.altKey ? free : snappedShift(board, hold, free));
    for (const id of hold.ids) drawn(id)?.setAttribute("transform", `translate(${by[0]} ${-by[1]})`);
    const [right, up] = by.map((m) => showLength(m, board.units));
    board.says.say(`${right} right, ${up} up`, "", true);
    if (!by[0] && !by[1]) return;
    const gesture = { do: "move", ids: hold.ids, motion: { shift: { by } } };
    board.water.attempt(gesture);
    board.rows.attempt(gesture);
  },

  drop(board, hold) {
    board.says.say("");
    if (hold.by && (hold.by[0] || hold.by[1]))
      board.wire.send({ do: "move", ids: hold.ids, motion: { shift: { by: hold.by } } });
    else board.mark();
  },
};

/** A head comes to corners, edges and their even divisions; a corner of anything else that comes
 * near an end elsewhere lies on it; what moves nearly level moves level. */
const snappedShift = (board, hold, by) => {
  const head = hold.ids.length === 1 && drawn(hold.ids[0]);
  if (head && head.classList.contains("head")) {
    const at = pointOf(head);
    const to = [at[0] + by[0], at[1] + by[1]];
    const { p } = board.snaps.find(to, board.reach(), { skip: hold.ids[0], divide: true });
    return [p[0] - at[0], p[1] - at[1]];
  }
  let best = null;
  for (const end of hold.ends.length < MOST_ENDS ? hold.ends : []) {
    const to = [end[0] + by[0], end[1] + by[1]];
    for (const other of board.snaps.targets.ends) {
      const d = hold.ids.includes(other[2]) ? Infinity : distance(to, other);
      if (d < board.reach() && (!best || d < best.d))
        best = { d, by: [other[0] - end[0], other[1] - end[1]] };
    }
  }
  if (best) return best.by;
  if (Math.abs(by[0]) < board.reach() / 2) return [0, by[1]];
  if (Math.abs(by[1]) < board.reach() / 2) return [by[0], 0];
  return by;
};

const handle = {
  move(board, event, hold) {
    if (ringsOf(hold.element)) shapeMoves(board, event, hold);
    else headMoves(board, event, hold);
  },

  drop(board, hold) {
    board.says.say("");
    const { element } = hold;
    const id = element.dataset.id;
    if (ringsOf(element))
      return board.wire.send(shapeGesture(element, hold.handle, hold.p, board.reach() / 3));
    const { facing, arc, radius } = hold.figures;
    const was = headFigures(element);
    if (facing !== was.facing || arc !== was.arc) board.wire.send({ do: "turn-head", id, facing, arc });
    if (radius !== was.radius) board.wire.send({ do: "throw-head", ids: [id], radius: `${radius} m` });
  },
};

const shapeMoves = (board, event, hold) => {
  const { element } = hold;
  const { handle: kind, ring: r, index } = hold.handle.dataset;
  const [ring, i] = [ringsOf(element)[Number(r)], Number(index)];
  hold.p = board.view.ground(event);
  if (kind === "corner" && !event.altKey) {
    const from = ring[(i + ring.length - 1) % ring.length];
    hold.p = board.snaps.find(hold.p, board.reach(), { from, skip: element.dataset.id }).p;
  }
  const rings = dragged(element, hold.handle, hold.p);
  outline(element, rings);
  const now = rings[Number(r)];
  const at = (k) => now[(k + now.length) % now.length];
  const lengths = kind === "corner" ? [edgeLength(at(i - 1), at(i)), edgeLength(at(i), at(i + 1))] : [];
  const said = (lengths.length ? lengths : [edgeLength(at(i), at(i + 1))]).map((m) =>
    showLength(m, board.units),
  );
  board.says.say(said.join(" · "), "", true);
  board.rows.attempt(shapeGesture(element, hold.handle, hold.p, board.reach() / 3));
};

const headMoves = (board, event, hold) => {
  const { element } = hold;
  hold.p = board.view.ground(event);
  hold.figures = headDragged(element, hold.handle, hold.p);
  const { facing, arc, radius } = hold.figures;
  const id = element.dataset.id;
  element.querySelector(".throw").setAttribute("d", sector(pointOf(element), hold.figures));
  const throws = showLength(radius, board.units);
  board.says.say(`arc ${arc}°, direction ${Math.round(facing)}°, radius ${throws}`, "", true);
  const turned = headFigures(element).radius === radius;
  board.water.attempt(
    turned ? { do: "turn-head", id, facing, arc } : { do: "throw-head", ids: [id], radius: `${radius} m` },
  );
};

export const GRIPS = { pan, box, thing, handle };
