// Where a pointer is meant to be: ends, edges, right angles, parallels, extensions.

import { direction, distance, isOpen, pointOf, ringsOf, toward } from "./shape.js";

const ANGLE = 4;

export class Snaps {
  constructor(svg) {
    this.svg = svg;
  }

  /** Forgets what was read off the drawing: it has changed. */
  stale() {
    this.known = null;
  }

  get targets() {
    if (this.known) return this.known;
    const [ends, edges] = [[], []];
    for (const element of this.svg.querySelectorAll("[data-rings]")) {
      for (const ring of ringsOf(element)) {
        ring.forEach((corner, i) => {
          ends.push([corner[0], corner[1], element.dataset.id]);
          const next = ring[(i + 1) % ring.length];
          if (!(isOpen(element) && i + 1 === ring.length) && !corner[2])
            edges.push([corner, next, element.dataset.id]);
        });
      }
    }
    for (const element of this.svg.querySelectorAll("[data-at]"))
      ends.push([...pointOf(element), element.dataset.id]);
    return (this.known = { ends, edges });
  }

  /**
   * @param p pointer on the ground
   * @param reach metres within which it snaps
   * @param from point that a new edge starts at
   * @param before the point before that: the new edge may stand square to the last
   * @param more further ends, e.g. of what is being drawn
   * @param skip id of what is being moved
   * @param divide even divisions of an edge count too: where heads stand
   */
  find(p, reach, { from, before, more = [], skip, divide } = {}) {
    let best = null;
    for (const end of [...more, ...this.targets.ends]) {
      const d = distance(end, p);
      if (d < reach && end[2] !== skip && (!best || d < best.d))
        best = { d, p: [end[0], end[1]], kind: "end" };
    }
    if (best) return best;
    let on = null;
    const parallels = [];
    for (const [a, b, id] of this.targets.edges) {
      if (id === skip) continue;
      const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
      const size = dx * dx + dy * dy;
      if (!size) continue;
      const t = ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / size;
      const foot = [a[0] + t * dx, a[1] + t * dy];
      const d = distance(foot, p);
      if (d < reach && t >= 0 && t <= 1 && (!on || d < on.d)) on = { d, p: foot, kind: "edge", line: [a, b] };
      // The extension of an edge, as far again as it is long.
      if (d < reach * 0.7 && t > -1 && t < 2 && !on)
        on = { d, p: foot, kind: "extension", guide: [t < 0 ? a : b, foot] };
      if (d < reach * 12) parallels.push(direction(a, b));
    }
    if (from && distance(from, p) > reach) {
      const wanted = new Set([0, 90, 180, 270]);
      const around = [...(before ? [direction(before, from)] : []), ...parallels];
      for (const d of around) for (const turn of [0, 90, 180, 270]) wanted.add((d + turn) % 360);
      const heading = direction(from, p);
      let angle = null;
      for (const d of wanted) {
        const off = Math.abs(((heading - d + 540) % 360) - 180);
        if (off < ANGLE && (angle === null || off < angle.off)) angle = { off, d };
      }
      if (angle) {
        const along = Math.cos((angle.off * Math.PI) / 180) * distance(from, p);
        let q = toward(from, angle.d, along);
        // Level with the place where the outline began, so that the last corner comes out square.
        for (const end of more) {
          const t = Math.cos(((direction(from, end) - angle.d) * Math.PI) / 180) * distance(from, end);
          const level = toward(from, angle.d, t);
          if (distance(level, q) < reach) q = level;
        }
        // Where the direction meets an edge, both hold.
        if (on?.kind === "edge") {
          const meet = cross(from, q, ...on.line);
          if (meet && distance(meet, p) < reach * 2) return { p: meet, kind: "edge", guide: [from, meet] };
        }
        return { p: q, kind: "angle", guide: [from, q] };
      }
    }
    return (
      (divide && on?.kind === "edge" && division(...on.line, on.p, reach)) || (on ?? { p, kind: "free" })
    );
  }
}

/** The nearest point that divides an edge into two to eight even parts, the fewest first. */
const division = (a, b, p, reach) => {
  for (let parts = 2; parts <= 8; parts++) {
    const k = Math.round((distance(a, p) / distance(a, b)) * parts);
    if (k <= 0 || k >= parts) continue;
    const q = [a[0] + ((b[0] - a[0]) * k) / parts, a[1] + ((b[1] - a[1]) * k) / parts];
    if (distance(q, p) < reach * 0.8) return { p: q, kind: "division", says: `${k}/${parts}`, guide: [a, b] };
  }
  return null;
};

const cross = (a, b, c, d) => {
  const [rx, ry, sx, sy] = [b[0] - a[0], b[1] - a[1], d[0] - c[0], d[1] - c[1]];
  const k = rx * sy - ry * sx;
  if (Math.abs(k) < 1e-9) return null;
  const t = ((c[0] - a[0]) * sy - (c[1] - a[1]) * sx) / k;
  return [a[0] + t * rx, a[1] + t * ry];
};
