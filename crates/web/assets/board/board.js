// The board: pointer and keys. Nothing of the job is computed here; a gesture ends in one edit
// that the server works out, and the drawing of what changed comes back.
//
//   tools/     one object a tool: what a click draws
//   grips      what a hand holds and drags
//   draft      what is being drawn, as it is shown
//   entry      figures typed beside the pointer
//   wire       gestures to the server in their order, also through loss and reload
//   changes    changed parts of the drawing into their places
//   labels     where the words stand
//   print      the board on paper, to a round scale
//   view       what part of the ground is seen
//   snap       where a pointer is meant to be

import { take } from "./changes.js";
import { showDraft } from "./draft.js";
import { Entry } from "./entry.js";
import { GRIPS, restore } from "./grips.js";
import { drawHandles } from "./handles.js";
import { showScale } from "./scale.js";
import { Says } from "./says.js";
import { distance, pointOf, ringsOf } from "./shape.js";
import { bindLayers, bindTogether } from "./layers.js";
import { bindPrint } from "./print.js";
import { Rows } from "./rows.js";
import { Sheet } from "./sheet.js";
import { Snaps } from "./snap.js";
import { BY_KEY, TOOLS } from "./tools/index.js";
import "./upload.js";
import { View } from "./view.js";
import { Water } from "./water.js";
import { Wire } from "./wire.js";

const $ = (id) => document.getElementById(id);
const drawn = (id) => $(`t-${id}`);
/** Whether all lengths are told is kept for this person, not for the job. */
const LENGTHS = "fenlo-all-lengths";

const kept = (key) => {
  try {
    return localStorage.getItem(key);
  } catch {
    return null;
  }
};

const keep = (key, value) => {
  try {
    localStorage.setItem(key, value);
  } catch {
    // Without storage it holds for this page.
  }
};

/** The ground or line under a pointer, also beneath the throws of heads. */
const groundUnder = ({ clientX, clientY }) =>
  document
    .elementsFromPoint(clientX, clientY)
    .map((e) => e.closest("#y-ground > .thing, #y-lines > .thing"))
    .find(Boolean) ?? null;

class Board {
  /** @param before what the page before this one showed of the same job */
  constructor(ground, before) {
    Object.assign(this, {
      ground,
      stage: $("stage"),
      svg: $("board"),
      over: $("over"),
      job: ground.dataset.job,
      units: ground.dataset.units,
      off: new AbortController(),
      picked: new Set(),
      tool: TOOLS.get("pick"),
      lastDrawn: "area",
      pointers: new Map(),
    });
    this.snaps = new Snaps(this.svg);
    this.says = new Says(this);
    this.view = new View(
      this.stage,
      this.svg,
      (view) => this.seen(view),
      (count) => this.untold(count),
    );
    if (before) {
      this.view.live = before.live;
      this.view.settle();
    }
    this.wire = new Wire(this.job, Number(ground.dataset.seq), {
      changes: (changes) => this.show(changes),
      done: (gesture) => this.done(gesture),
      refused: (gesture, why) => this.refused(gesture, why),
      waiting: (count) => this.waiting(count),
      reload: () => location.reload(),
    });
    this.entry = new Entry(this);
    this.sheet = new Sheet(this);
    bindLayers(this.svg, this.off.signal);
    bindPrint(this, this.off.signal);
    bindTogether(this, this.off.signal);
    this.listen();
    this.tellLengths(kept(LENGTHS) === "yes");
    this.turnNorth(Number($("north").dataset.degrees));
    this.water = new Water(this, before?.water ?? null);
    this.rows = new Rows(this);
    this.seen(this.view);
    // Whoever comes by a key goes on by keys.
    if (document.activeElement === document.body) {
      this.stage.classList.add("unasked");
      this.stage.focus({ preventScroll: true });
    }
  }

  listen() {
    const { stage, ground } = this;
    const on = (target, type, act, more = {}) =>
      target.addEventListener(type, (event) => act.call(this, event), { signal: this.off.signal, ...more });
    on(stage, "pointerdown", this.down);
    on(stage, "pointermove", this.move);
    on(stage, "pointerup", this.up);
    on(stage, "pointercancel", this.cancel);
    on(stage, "pointerleave", () => this.hover(null));
    on(stage, "dblclick", this.double);
    on(stage, "wheel", this.wheel, { passive: false });
    on(stage, "keydown", this.key);
    on(ground, "click", this.click);
    on($("all-lengths"), "change", (event) => this.tellLengths(event.target.checked));
    on(document.body, "board-changed", ({ detail }) =>
      this.wire.catchUp().then(() => (detail?.added ? this.name(detail.added) : this.sheet.show())),
    );
    on($("sheet"), "keydown", this.leaveSheet);
  }

  leave() {
    this.off.abort();
    this.wire.close();
    return { live: this.view.live, water: this.water.asked };
  }

  // What the server says ----------------------------------------------------------------------

  show(changes) {
    if (!this.hold) this.rows.forget();
    const fresh = take(changes, this.svg);
    if (changes.north !== null) this.turnNorth(changes.north);
    this.snaps.stale();
    this.picked.forEach((id) => drawn(id) || this.picked.delete(id));
    this.mark();
    if (!fresh) return;
    this.sheet.show();
    this.water.ask();
    this.sheet.list();
  }

  /** Not done: said where it is to be seen, and what was drawn is still in the hand. */
  refused(gesture, { message, about, place }) {
    this.rows.restore();
    for (const id of gesture.ids ?? [gesture.id]) restore(drawn(id));
    document.querySelectorAll("#board .waiting").forEach((e) => e.remove());
    this.mark();
    const what = gesture.do === "add" && gesture.thing.what;
    const outline = what && (what.shape ?? what.form?.region)?.outline;
    if (outline && this.tool.draws && !this.draft) {
      this.draft = { points: outline };
      this.pointer ??= { p: outline.at(-1), kind: "free" };
      this.preview();
      message += " Backspace removes the last corner.";
    }
    this.says.sayAt(message, place ?? this.placeOf(about));
  }

  placeOf(id) {
    const element = id && drawn(id);
    return element ? (pointOf(element) ?? ringsOf(element)?.[0][0] ?? null) : null;
  }

  waiting(count) {
    const away = this.wire?.away ?? true;
    this.stage.classList.toggle("away", away);
    this.says.connection(away, count);
  }

  turnNorth(degrees) {
    $("north-arrow").setAttribute("transform", `rotate(${degrees})`);
  }

  // Words ------------------------------------------------------------------------------------

  /** Every length, or only those of what is picked or pointed at. */
  tellLengths(all) {
    $("all-lengths").checked = all;
    this.view.labels.all = all;
    this.view.labels.soon();
    keep(LENGTHS, all ? "yes" : "no");
  }

  /** Words that have no place at this scale. */
  untold(count) {
    const what = count > 1 ? "labels do not fit" : "label does not fit";
    $("untold").textContent = count ? `${count} ${what} at this scale: zoom in or select` : "";
  }

  /** What is under the pointer tells its lengths. */
  hover(element) {
    if (element === this.hovered) return;
    this.hovered?.classList.remove("hovered");
    this.hovered = element;
    element?.classList.add("hovered");
    if (!this.view.labels.all) this.view.labels.soon();
  }

  // Picking -----------------------------------------------------------------------------------

  pick(ids) {
    this.picked = new Set(ids);
    this.mark();
    this.sheet.show();
  }

  /** Ground that was just drawn is called something, while nothing else is being done. */
  done({ do: what, thing }) {
    const ground = ["area", "dry"].includes(thing?.what.is);
    const free = document.activeElement === this.stage && !this.draft && !this.hold && !this.wire.queue.length;
    if (what === "add" && ground && free && this.picked.has(thing.id)) this.name(thing.id);
  }

  /** Picks what is new, brings it into sight, and puts the next letter typed into its name. */
  async name(id) {
    this.picked = new Set([id]);
    this.mark();
    const box = drawn(id)?.getBoundingClientRect();
    const stage = this.stage.getBoundingClientRect();
    const across = box && box.left >= stage.left && box.right <= stage.right;
    const seen = across && box.top >= stage.top && box.bottom <= stage.bottom;
    if (!seen) this.fit();
    await this.sheet.show();
    $("thing-name")?.select();
  }

  /** Enter in a name, and Escape anywhere in the sheet, go back to the board. */
  leaveSheet(event) {
    const named = event.key === "Enter" && event.target.id === "thing-name";
    if (!named && event.key !== "Escape") return;
    event.preventDefault();
    this.stage.focus({ preventScroll: true });
  }

  mark() {
    this.svg.querySelectorAll(".picked").forEach((e) => e.classList.remove("picked"));
    this.over.replaceChildren();
    for (const id of this.picked) drawn(id)?.classList.add("picked");
    this.view.labels.soon();
    const one = this.picked.size === 1 && this.tool.name === "pick" && drawn([...this.picked][0]);
    if (one) drawHandles(this.over, one);
    if (this.draft) this.preview();
  }

  // Tools -------------------------------------------------------------------------------------

  use(name) {
    const before = this.draft;
    this.tool = TOOLS.get(name);
    this.draft = null;
    this.entry.close();
    const pressed = (b) => b.setAttribute("aria-pressed", b.dataset.tool === name);
    this.ground.querySelectorAll("[data-tool]").forEach(pressed);
    this.stage.dataset.tool = name;
    if (name !== "pick") $("board-teach")?.remove();
    if (this.tool.draws) this.lastDrawn = this.tool.draws;
    this.tool.begin?.(this, before);
    this.mark();
    const { hint } = this.tool;
    this.says.say(typeof hint === "function" ? hint(this) : hint);
    this.stage.focus({ preventScroll: true });
  }

  preview() {
    showDraft(this);
  }

  reach() {
    return this.view.live.mpp * 10;
  }

  snapped(event) {
    const p = this.view.ground(event);
    if (event.altKey) return { p, kind: "free" };
    const points = this.draft?.points ?? [];
    return this.snaps.find(p, this.reach(), {
      from: points.at(-1),
      before: points.at(-2),
      more: points.slice(0, -1),
      divide: this.tool.divides,
    });
  }

  // Pointers ----------------------------------------------------------------------------------

  down(event) {
    if (event.target.closest("button, form, label, .board-teach")) return;
    this.stage.focus({ preventScroll: true });
    this.stage.setPointerCapture(event.pointerId);
    this.pointers.set(event.pointerId, [event.clientX, event.clientY]);
    // Two fingers: whatever one of them had begun is left.
    if (this.pointers.size === 2) return this.abandon();
    const start = { x: event.clientX, y: event.clientY, p: this.view.ground(event), moved: false };
    this.hold = { ...start, ...this.taken(event) };
  }

  /** What a pointer takes hold of. */
  taken(event) {
    const handle = event.target.closest("[data-handle]");
    const id = event.target.closest(".thing")?.dataset.id;
    if (event.button === 1) return { grip: "pan" };
    if (this.tool.name !== "pick") return { grip: "tool" };
    if (handle) return { grip: "handle", handle, element: drawn([...this.picked][0]) };
    // A finger moves only what is picked: elsewhere it pans, and a tap picks.
    if (id && event.pointerType === "touch" && !this.picked.has(id)) return { grip: "pan", tap: id };
    if (id) return { grip: "thing", id, more: event.shiftKey };
    return { grip: event.shiftKey ? "box" : "pan" };
  }

  move(event) {
    const last = this.pointers.get(event.pointerId);
    if (last) this.pointers.set(event.pointerId, [event.clientX, event.clientY]);
    if (this.pointers.size === 2 && last) return this.pinch(event, last);
    const { hold } = this;
    if (hold && Math.hypot(event.clientX - hold.x, event.clientY - hold.y) > 4) hold.moved = true;
    if (hold && hold.grip !== "tool") {
      if (hold.moved) GRIPS[hold.grip].move(this, event, hold, last);
      return;
    }
    if (this.tool.name === "pick") return this.hover(groundUnder(event));
    this.pointer = this.snapped(event);
    if (hold?.moved && this.tool.drags) this.draft ??= { points: [hold.p] };
    this.preview();
  }

  up(event) {
    this.pointers.delete(event.pointerId);
    const { hold } = this;
    this.hold = null;
    if (!hold) return;
    if (hold.grip === "tool") return this.act(event, hold);
    if (hold.moved || hold.grip === "box") return GRIPS[hold.grip].drop?.(this, hold);
    if (hold.grip === "thing" && hold.more) {
      const next = new Set(this.picked);
      if (!next.delete(hold.id)) next.add(hold.id);
      this.pick(next);
    } else if (hold.grip === "thing") this.pick([hold.id]);
    else if (hold.grip === "pan") this.pick(hold.tap ? [hold.tap] : []);
  }

  /** A click, or the end of a drag, of a drawing tool. */
  act(event, hold) {
    this.pointer = this.snapped(event);
    this.tool.act?.(this, this.pointer.p, hold);
    if (this.tool.name !== "pick") this.preview();
  }

  double(event) {
    if (this.draft?.points.length >= 2) this.finish();
    else this.tool.double?.(this, event);
  }

  finish() {
    if (this.tool.finish) this.tool.finish(this);
    else this.draft = null;
    this.preview();
  }

  cancel(event) {
    this.pointers.delete(event.pointerId);
    this.abandon();
  }

  abandon() {
    for (const id of this.hold?.ids ?? []) restore(drawn(id));
    restore(this.hold?.element);
    this.rows.restore();
    this.hold = null;
    this.mark();
  }

  pinch(event, last) {
    const other = [...this.pointers].find(([id]) => id !== event.pointerId)[1];
    const box = this.stage.getBoundingClientRect();
    const now = [event.clientX, event.clientY];
    this.view.zoom(
      distance(now, other) / Math.max(1, distance(last, other)),
      (now[0] + other[0]) / 2 - box.left,
      (now[1] + other[1]) / 2 - box.top,
    );
    this.view.pan((now[0] - last[0]) / 2, (now[1] - last[1]) / 2);
  }

  wheel(event) {
    event.preventDefault();
    const box = this.stage.getBoundingClientRect();
    if (event.ctrlKey || !event.shiftKey)
      this.view.zoom(Math.exp(-event.deltaY * 0.0016), event.clientX - box.left, event.clientY - box.top);
    else this.view.pan(-event.deltaY, 0);
  }

  // Keys --------------------------------------------------------------------------------------

  key(event) {
    if (event.target !== this.stage) return;
    this.stage.classList.remove("unasked");
    const act = this.meaning(event);
    if (!act) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  }

  /** What a key does now; none where it is not for the board. */
  meaning({ key, ctrlKey, metaKey, altKey, shiftKey }) {
    if ((ctrlKey || metaKey) && key.toLowerCase() === "a")
      return () => this.pick([...this.svg.querySelectorAll(".thing")].map((e) => e.dataset.id));
    if (ctrlKey || metaKey || altKey) return null;
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[key];
    if (this.tool.name !== "pick") {
      // A digit is a length, or where the first corner lies; it never leads to another page.
      if (/^[0-9.]$/.test(key)) return () => this.typed(key);
      if (key === "Enter" && !this.draft) return () => this.typed("");
      if (way && this.draft?.points.length) return () => this.point(way);
    }
    if (way) return () => this.nudge(way, shiftKey);
    if (BY_KEY.has(key)) return () => this.use(BY_KEY.get(key));
    const plain = {
      Escape: () => this.escape(),
      "+": () => this.view.zoom(1.3),
      "=": () => this.view.zoom(1.3),
      "-": () => this.view.zoom(1 / 1.3),
      0: () => this.fit(),
      f: () => this.fit(),
      o: () => this.press('form[hx-post$="/ground/layout"] .btn-earth'),
      s: () => this.press(".next-step .btn-earth"),
      w: () => this.press("[data-water]"),
    }[key];
    if (plain) return plain;
    if (this.draft) return { Enter: () => this.finish(), Backspace: () => this.takeBack() }[key];
    if ((key === "Delete" || key === "Backspace") && this.picked.size)
      return () => this.wire.send({ do: "remove", ids: [...this.picked] });
    return null;
  }

  /** A button of the sheet, by its key. */
  press(selector) {
    $("sheet").querySelector(selector)?.click();
  }

  /** Figures for what is being drawn. */
  typed(key) {
    if (this.tool.typed) return this.tool.typed(this, key);
    if (this.draft?.points.length) return this.entry.edge(key);
    this.entry.corner(key);
  }

  /** The way that the next edge goes, set by an arrow. */
  point([right, up]) {
    const from = this.draft.points.at(-1);
    const far = Math.max(1, this.reach() * 6);
    this.pointer = { p: [from[0] + right * far, from[1] + up * far], kind: "free" };
    this.preview();
  }

  /** Ground beside all that is drawn: for a rectangle of typed lengths that nobody pointed a place for. */
  beside() {
    const step = this.units === "us" ? 5 * 0.3048 : 1;
    const corners = [...this.svg.querySelectorAll("#y-ground > .thing, #y-lines > .thing")].flatMap(
      (e) => ringsOf(e)?.flat() ?? [],
    );
    if (!corners.length) return [0, 0];
    const [right, low] = corners.reduce(([r, l], [x, y]) => [Math.max(r, x), Math.min(l, y)], [-1e9, 1e9]);
    return [Math.ceil(right / step + 1 - 1e-6) * step, low];
  }

  nudge([right, up], far) {
    if (!this.picked.size) return this.view.pan(-right * 60, up * 60);
    const [fine, coarse] = this.units === "us" ? [0.0254, 0.3048] : [0.01, 0.1];
    const step = far ? coarse : fine;
    const by = [right * step, up * step];
    this.wire.send({ do: "move", ids: [...this.picked], motion: { shift: { by } } });
  }

  /** The last corner is taken back. */
  takeBack() {
    this.draft.points.pop();
    if (!this.draft.points.length) this.draft = null;
    this.preview();
  }

  /** Leaves the innermost of what is going on. */
  escape() {
    if (this.hold) this.abandon();
    else if (this.draft) {
      this.draft = null;
      this.tool.begin?.(this, null);
      this.preview();
    } else if (this.tool.name !== "pick") this.use("pick");
    else this.pick([]);
  }

  click(event) {
    const at = (selector) => event.target.closest(selector);
    const tool = at("[data-tool]");
    if (tool && tool !== this.stage) return this.use(tool.dataset.tool);
    if (at("[data-pick]")) return this.pick([at("[data-pick]").dataset.pick]);
    if (at("[data-unpick]")) {
      this.pick([]);
      return this.stage.focus();
    }
    if (at("[data-water]")) return this.water.show(at("[data-water]").dataset.water);
    if (at("[data-water-off]")) return this.water.hide();
    if (at("[data-list-page]")) return this.sheet.list(Number(at("[data-list-page]").dataset.listPage));
    if (at("#zoom-in")) this.view.zoom(1.3);
    else if (at("#zoom-out")) this.view.zoom(1 / 1.3);
    else if (at("#zoom-fit")) this.fit();
  }

  // What is seen ------------------------------------------------------------------------------

  /** Left, bottom, right and top of all that is drawn now, with a little round it. */
  frame() {
    const points = [...this.svg.querySelectorAll(".thing")]
      .flatMap((e) => ringsOf(e)?.flat() ?? [pointOf(e)])
      .filter(Boolean);
    if (points.length > 1) {
      const wider = (axis) => ([a, b], p) => [Math.min(a, p[axis]), Math.max(b, p[axis])];
      const ends = (axis) => points.reduce(wider(axis), [1e9, -1e9]);
      const [[l, r], [b, t]] = [ends(0), ends(1)];
      const m = Math.max(1, Math.max(r - l, t - b) * 0.06);
      this.svg.dataset.frame = [l - m, b - m, r + m, t + m].join(",");
    }
    return this.svg.dataset.frame.split(",").map(Number);
  }

  fit() {
    this.frame();
    this.view.fit();
  }

  seen({ live }) {
    if (this.says.blamed) this.says.stand();
    showScale(live.mpp, this.units);
    // Small print only where there is room for it.
    this.svg.classList.toggle("far", live.mpp > 0.14);
  }
}

let board = null;
const begin = () => {
  const ground = $("ground");
  if (board?.ground === ground) return;
  const same = board && ground && board.job === ground.dataset.job;
  const before = board?.leave();
  board = ground ? new Board(ground, same ? before : null) : null;
};
begin();
document.addEventListener("htmx:afterSettle", begin);
