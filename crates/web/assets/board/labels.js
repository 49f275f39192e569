// Where the words of the board stand: names and areas always; perimeters and the lengths of edges of
// what is picked or pointed at, or of everything where somebody wants it so. They are set anew when
// the hand rests, each at the first place of its own that is still free: inside or along its edge,
// else aside with a line that leads to it. What finds no place at all at this scale is counted in
// words at the foot of the board.

import { make } from "./shape.js";

const HEIGHT = 14;
const WIDTH = { name: 6.4, size: 5.8, dim: 5.8, fine: 4.8 };
/** Width of the strip that a leader keeps free of names. */
const LEADER = 4;
/** Side of the ground under the start of a leader that is kept free. */
const ANCHOR = 14;
const CELL = 48;
/** More edges than this in view are not tried: they would be a grey mist. */
const MOST = 2500;
/** Shorter edges, in pixels, are counted and not told. */
const LEAST = 3;
const ASIDE = [20, 34, 52, 74, 100, 130];
const TURNS = Array.from({ length: 12 }, (_, i) => (i * Math.PI) / 6);

/** Boxes that are taken, found by squares of the stage. */
class Taken {
  constructor() {
    this.cells = new Map();
  }
  *near([l, t, r, b]) {
    for (let i = Math.floor(l / CELL); i <= Math.floor(r / CELL); i++)
      for (let j = Math.floor(t / CELL); j <= Math.floor(b / CELL); j++) yield `${i},${j}`;
  }
  free(boxes) {
    return boxes.every((box) => {
      for (const cell of this.near(box))
        for (const [l, t, r, b] of this.cells.get(cell) ?? [])
          if (box[0] < r && l < box[2] && box[1] < b && t < box[3]) return false;
      return true;
    });
  }
  take(boxes) {
    for (const box of boxes)
      for (const cell of this.near(box))
        this.cells.has(cell) ? this.cells.get(cell).push(box) : this.cells.set(cell, [box]);
  }
}

const level = (x, y, w, h) => [x - w / 2, y - h / 2, x + w / 2, y + h / 2];

/** A line of words that slants, as small boxes along it. */
const slanting = (x, y, w, h, turn) => {
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  if (Math.abs(s) < 0.02) return [level(x, y, w, h)];
  if (Math.abs(c) < 0.02) return [level(x, y, h, w)];
  const pieces = Math.max(1, Math.ceil(w / h));
  return Array.from({ length: pieces }, (_, i) => {
    const along = ((i + 0.5) / pieces - 0.5) * w;
    return level(x + c * along, y + s * along, h, h);
  });
};

const numbers = (text) => text.match(/-?[\d.]+/g).map(Number);

export class Labels {
  constructor(view, svg, untold) {
    Object.assign(this, { view, svg, untold, words: svg.querySelector("#words"), all: false });
  }

  /** Once, when the present work is done. */
  soon() {
    cancelAnimationFrame(this.asked);
    this.asked = requestAnimationFrame(() => this.set());
  }

  now() {
    cancelAnimationFrame(this.asked);
    this.set();
  }

  set() {
    const { live, stage } = this.view;
    const size = [stage.clientWidth, stage.clientHeight];
    const inView = ([x, y], more = 0) => x > -more && y > -more && x < size[0] + more && y < size[1] + more;
    this.out = document.createDocumentFragment();
    this.taken = new Taken();
    [this.named, this.worded] = [new Taken(), new Taken()];
    this.told = new Set();
    // Nothing stands over the edge of the stage, nor under its buttons.
    this.taken.take([
      [-999, -999, 0, 9999],
      [size[0], -999, 9999, 9999],
      [-999, -999, 9999, 0],
      [-999, size[1], 9999, 9999],
      [size[0] - 270, size[1] - 54, size[0], size[1]],
      [0, size[1] - 30, 190, size[1]],
      [size[0] - 55, 0, size[0], 62],
    ]);
    this.marks(inView);
    const [labels, edges] = [[], []];
    let mere = 0;
    for (const thing of this.svg.querySelectorAll("#y-ground > .thing, #y-lines > .thing")) {
      const picked = thing.classList.contains("picked");
      const measured = this.all || picked || thing.classList.contains("hovered");
      labels.push(...this.labelsOf(thing, picked, measured).filter((label) => inView(label.at)));
      if (!measured) continue;
      const all = this.edgesOf(thing, picked).filter((edge) => inView(edge.at));
      const long = all.filter((edge) => edge.length >= LEAST);
      mere += all.length - long.length;
      edges.push(...long);
    }
    const first = (a, b) => b.picked - a.picked;
    let untold = mere + Math.max(0, edges.length - MOST);
    labels.sort((a, b) => first(a, b) || b.room[0] * b.room[1] - a.room[0] * a.room[1]);
    edges.sort((a, b) => first(a, b) || b.length - a.length);
    // Names that fit on their ground, then those that must stand aside; lengths along their edges,
    // then those of edges that are too short for theirs.
    const aside = labels.filter((label) => !this.inside(label));
    // What a leader starts from stays free of other names.
    this.taken.take(aside.map(({ at }) => level(...at, ANCHOR, ANCHOR)));
    for (const label of aside) {
      // Where both find no room the name alone may.
      const name = { ...label, lines: label.lines.slice(0, 1) };
      untold += !(this.beside(label) || this.beside(name));
    }
    const short = edges.slice(0, MOST).filter((edge) => !this.same(edge) && !this.along(edge));
    for (const edge of short) untold += !this.beside({ ...edge, lines: [["dim", edge.text]] });
    this.words.setAttribute("transform", `translate(${live.x} ${live.y}) scale(${live.mpp})`);
    this.words.replaceChildren(this.out);
    this.untold(untold);
  }

  /** Name and area of a thing, with its perimeter where it is measured. */
  labelsOf(thing, picked, measured) {
    const { live } = this.view;
    return [...thing.querySelectorAll(".label")].map((label) => {
      const [x, y] = numbers(label.getAttribute("transform"));
      const texts = [...label.querySelectorAll("text")];
      return {
        at: [(x - live.x) / live.mpp, (y - live.y) / live.mpp],
        room: label.dataset.room?.split(",").map((m) => Number(m) / live.mpp) ?? [0, 0],
        picked,
        lines: texts
          .filter((t) => measured || !t.classList.contains("round"))
          .map((t) => [t.classList[0], t.textContent]),
      };
    });
  }

  /** Edges of a thing with their lengths, in pixels. */
  edgesOf(thing, picked) {
    const { live } = this.view;
    return [...thing.querySelectorAll("[data-m]")].map((dim) => {
      const [x, y, turn] = numbers(dim.getAttribute("transform"));
      const text = dim.querySelector("text");
      return {
        at: [(x - live.x) / live.mpp, (y - live.y) / live.mpp],
        turn: (turn * Math.PI) / 180,
        length: Number(dim.dataset.m) / live.mpp,
        picked,
        text: text.textContent,
        out: Number(text.getAttribute("y")) < 0 ? -1 : 1,
      };
    });
  }

  /** What is drawn already and keeps its place. */
  marks(inView) {
    const { live } = this.view;
    this.svg.querySelectorAll("#y-marks .px, #y-plants .label .px, #y-heads .low .px").forEach((px) => {
      const [x, y] = numbers(px.parentElement.getAttribute("transform"));
      const at = [(x - live.x) / live.mpp, (y - live.y) / live.mpp];
      if (!inView(at, 100)) return;
      this.taken.take([level(at[0], at[1], 20, 20)]);
      for (const text of px.querySelectorAll("text:not(.sign)")) {
        const [tx, ty] = [Number(text.getAttribute("x") ?? 0), Number(text.getAttribute("y") ?? 0)];
        const w = text.textContent.length * 6.6;
        const left = at[0] + tx - (px.getAttribute("text-anchor") === "middle" ? w / 2 : 0);
        this.taken.take([[left, at[1] + ty - 11, left + w, at[1] + ty + 3]]);
      }
    });
  }

  inside({ at, room, lines, picked }) {
    const [wide, high] = [
      Math.max(...lines.map(([kind, text]) => text.length * WIDTH[kind])),
      lines.length * HEIGHT + 2,
    ];
    // Upright, then turned; in full size, then smaller.
    for (const [size, turned] of [
      [1, false],
      [1, true],
      [0.78, false],
      [0.78, true],
    ]) {
      const [w, h] = [wide * size, high * size];
      const [across, up] = turned ? [room[1], room[0]] : room;
      if (w > across || h > up) continue;
      // Heads and lengths may stand in the very middle: a little up or down there is room.
      for (const step of [0, -1, 1, -2, 2]) {
        const off = step * Math.min(16, (up - h) / 4);
        const [x, y] = turned ? [at[0] + off, at[1]] : [at[0], at[1] + off];
        if (
          this.put(
            slanting(x, y, w, h, turned ? Math.PI / 2 : 0),
            [x, y],
            turned ? -90 : 0,
            lines,
            picked,
            size,
          )
        )
          return true;
      }
    }
    return false;
  }

  /** The same length of the same edge stands there already: two grounds share it. */
  same({ at, text }) {
    const key = `${text} ${Math.round(at[0] / 6)} ${Math.round(at[1] / 6)}`;
    if (this.told.has(key)) return true;
    this.told.add(key);
    return false;
  }

  along({ at, turn, length, text, out, picked }) {
    for (const kind of ["dim", "fine"]) {
      const w = text.length * WIDTH[kind];
      if (w + 4 > length) continue;
      const spare = (length - w) / 2;
      for (const share of [0, 0.45, -0.45, 0.85, -0.85]) {
        for (const side of [out, -out]) {
          const [c, s] = [Math.cos(turn), Math.sin(turn)];
          const [dx, dy] = [spare * share, side * 9];
          const [x, y] = [at[0] + c * dx - s * dy, at[1] + s * dx + c * dy];
          if (this.put(slanting(x, y, w, 11, turn), [x, y], (turn * 180) / Math.PI, [[kind, text]], picked))
            return true;
        }
      }
    }
    return false;
  }

  /** Aside, with a line that leads to it: through no words if it can be, through no name ever. */
  beside(label) {
    return this.led(label, this.worded) || this.led(label, this.named);
  }

  led({ at, lines, picked, turn, out }, clear) {
    const w = Math.max(...lines.map(([kind, text]) => text.length * WIDTH[kind]));
    const h = lines.length * HEIGHT;
    // A length looks first to its own side of the edge.
    const begin = turn === undefined ? 0 : turn + (out * Math.PI) / 2;
    for (const far of ASIDE) {
      for (const by of TURNS) {
        const a = begin + by;
        const [x, y] = [at[0] + Math.cos(a) * (far + w / 2), at[1] + Math.sin(a) * (far + h / 2 - 6)];
        const box = level(x, y, w, h);
        const end = [Math.min(box[2], Math.max(box[0], at[0])), Math.min(box[3], Math.max(box[1], at[1]))];
        const [dx, dy] = [end[0] - at[0], end[1] - at[1]];
        const middle = [at[0] + dx / 2, at[1] + dy / 2];
        const line = slanting(...middle, Math.hypot(dx, dy), LEADER, Math.atan2(dy, dx));
        // Nor does anything stand over a leader later.
        if (!clear.free(line) || !this.put([box], [x, y], 0, lines, picked)) continue;
        this.taken.take(line);
        this.out.prepend(make("path", { class: "leader", d: `M${at[0]} ${at[1]}L${end[0]} ${end[1]}` }));
        return true;
      }
    }
    return false;
  }

  put(boxes, [x, y], degrees, lines, picked, size = 1) {
    if (!this.taken.free(boxes)) return false;
    this.taken.take(boxes);
    this.worded.take(boxes);
    if (lines.some(([kind]) => kind === "name")) this.named.take(boxes);
    const g = make("g", {
      class: picked ? "word of-picked" : "word",
      transform: `translate(${x.toFixed(1)} ${y.toFixed(1)}) rotate(${degrees.toFixed(1)}) scale(${size})`,
      "text-anchor": "middle",
    });
    lines.forEach(([kind, text], i) => {
      make(
        "text",
        { class: kind, y: (4 + HEIGHT * (i - (lines.length - 1) / 2)).toFixed(1) },
        g,
      ).textContent = text;
    });
    this.out.append(g);
    return true;
  }
}
