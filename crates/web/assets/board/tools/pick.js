import { distance, isOpen, ringsOf } from "../shape.js";

/** The straight edge of an element nearest to a point, and where on it. */
const nearestEdge = (element, p) => {
  let best = null;
  (ringsOf(element) ?? []).forEach((ring, r) => {
    const last = isOpen(element) ? ring.length - 1 : ring.length;
    for (let i = 0; i < last; i++) {
      const [a, b] = [ring[i], ring[(i + 1) % ring.length]];
      const along = (p[0] - a[0]) * (b[0] - a[0]) + (p[1] - a[1]) * (b[1] - a[1]);
      const t = Math.max(0, Math.min(1, along / (distance(a, b) ** 2 || 1)));
      const foot = [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
      // An arc bulges away from its chord: it counts as nearer than its chord is.
      const d = a[2] ? distance(p, foot) / 2 : distance(p, foot);
      if (!best || d < best.d) best = { d, ring: r, edge: i, at: a[2] ? p : foot };
    }
  });
  return best;
};

export const pick = {
  name: "pick",
  key: "v",
  hint: "",

  /** A new corner where an edge is clicked twice. */
  double(board, event) {
    if (board.picked.size !== 1) return;
    const id = [...board.picked][0];
    const best = nearestEdge(document.getElementById(`t-${id}`), board.view.ground(event));
    if (best && best.d < board.reach() * 2)
      board.wire.send({ do: "insert-corner", id, ring: best.ring, edge: best.edge, at: best.at });
  },
};
