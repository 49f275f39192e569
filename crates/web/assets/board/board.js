// The board: pointer and keys. Nothing of the job is computed here; a gesture ends in one edit
// that the server works out, and the drawing of what changed comes back.

import { drawHandles, dragged, headDragged, sector, shapeGesture } from "./handles.js";
import { parseLength, showLength } from "./length.js";
import { direction, distance, edgeLength, isOpen, make, newName, pathOf, pointOf, ringsOf, toward } from "./shape.js";
import { Snaps } from "./snap.js";
import { View } from "./view.js";
import { Wire } from "./wire.js";

const $ = (id) => document.getElementById(id);
const LINES = ["wall", "window"];

class Board {
  constructor(ground, kept) {
    Object.assign(this, { ground, stage: $("stage"), svg: $("board"), over: $("over"), job: ground.dataset.job, units: ground.dataset.units });
    this.picked = new Set();
    this.tool = "pick";
    this.pointers = new Map();
    this.snaps = new Snaps(this.svg);
    this.view = new View(this.stage, this.svg, (view) => this.seen(view));
    if (kept) {
      this.view.live = kept;
      this.view.settle();
    }
    this.wire = new Wire(this.job, Number(ground.dataset.seq), {
      changes: (changes) => this.show(changes),
      refused: (gesture, message) => this.refused(gesture, message),
      waiting: (count) => this.waiting(count),
      reload: () => location.reload(),
    });
    this.off = new AbortController();
    const on = (target, type, act, more = {}) => target.addEventListener(type, act, { signal: this.off.signal, ...more });
    on(this.stage, "pointerdown", (e) => this.down(e));
    on(this.stage, "pointermove", (e) => this.move(e));
    on(this.stage, "pointerup", (e) => this.up(e));
    on(this.stage, "pointercancel", (e) => this.cancel(e));
    on(this.stage, "dblclick", (e) => this.double(e));
    on(this.stage, "wheel", (e) => this.wheel(e), { passive: false });
    on(this.stage, "keydown", (e) => this.key(e));
    on(ground, "click", (e) => this.click(e));
    on($("entry"), "submit", (e) => {
      e.preventDefault();
      this.enter();
    });
    on($("entry"), "keydown", (e) => {
      if (e.key === "Escape") {
        this.closeEntry();
        this.stage.focus();
      }
    });
    on($("board-list"), "toggle", () => this.list());
    on(document.body, "htmx:afterRequest", (e) => e.detail.successful && $("sheet").contains(e.detail.elt) && this.saved(e.detail.elt.closest("form") ?? e.detail.elt));
    on(document.body, "board-changed", () => this.wire.catchUp().then(() => this.sheet()));
    this.seen(this.view);
    this.turnNorth(Number($("north").dataset.degrees));
  }

  leave() {
    this.off.abort();
    this.wire.close();
    return this.view.live;
  }

  // What the server says ----------------------------------------------------------------------

  show(changes) {
    const head = document.createElement("template");
    head.innerHTML = changes.head;
    for (const part of head.content.children) {
      const place = $(part.id);
      if (!place) continue;
      place.replaceChildren(...part.childNodes);
      window.htmx?.process(place);
    }
    for (const part of changes.changed) {
      const fresh = new DOMParser().parseFromString(`<svg xmlns="http://www.w3.org/2000/svg">${part.svg}</svg>`, "image/svg+xml").documentElement.firstChild;
      const old = $(part.id);
      if (old && old.parentElement.id === `y-${part.layer}`) old.replaceWith(document.importNode(fresh, true));
      else {
        old?.remove();
        const layer = $(`y-${part.layer}`);
        const before = part.after && $(part.after);
        if (before) before.after(document.importNode(fresh, true));
        else layer.append(document.importNode(fresh, true));
      }
    }
    for (const part of changes.changed) $(part.id) && this.view.words($(part.id));
    for (const id of changes.gone) $(id)?.remove();
    if (changes.underlay !== null) {
      const fresh = new DOMParser().parseFromString(`<svg xmlns="http://www.w3.org/2000/svg">${changes.underlay}</svg>`, "image/svg+xml").documentElement;
      $("y-underlay").replaceChildren(...[...fresh.childNodes].map((n) => document.importNode(n, true)));
    }
    if (changes.north !== null) this.turnNorth(changes.north);
    $("things").textContent = changes.things;
    if (changes.things) $("board-teach")?.remove();
    this.snaps.stale();
    this.picked.forEach((id) => !$(`t-${id}`) && this.picked.delete(id));
    this.mark();
    if (changes.changed.length || changes.gone.length || changes.north !== null || changes.underlay !== null) {
      this.sheet();
      if ($("board-list").open) this.list();
    }
  }

  refused(gesture, message) {
    this.say(message, "stop");
    for (const id of gesture.ids ?? [gesture.id]) this.restore($(`t-${id}`));
    document.querySelectorAll("#board .waiting").forEach((e) => e.remove());
    this.mark();
  }

  waiting(count) {
    this.stage.classList.toggle("away", this.wire?.away ?? true);
    if (this.wire?.away !== false) this.say(count ? `No connection. ${count} change${count > 1 ? "s wait" : " waits"} here and will be saved when it is back.` : "No connection. You can go on drawing; it is saved when it is back.", "watch", true);
    else this.say("Connected again. Everything is saved.", "ok");
  }

  say(text, kind = "", stay = false) {
    const place = $("board-says");
    place.className = `board-says ${kind}`;
    place.textContent = text;
    clearTimeout(this.hush);
    if (text && !stay) this.hush = setTimeout(() => (place.textContent = ""), kind === "stop" ? 9000 : 5000);
  }

  turnNorth(degrees) {
    $("north-arrow").setAttribute("transform", `rotate(${degrees})`);
  }

  // The sheet and the list --------------------------------------------------------------------

  async sheet() {
    const ids = [...this.picked].join(",");
    const response = await fetch(`/jobs/${this.job}/ground/sheet?ids=${encodeURIComponent(ids)}`).catch(() => null);
    if (!response?.ok) return;
    const html = await response.text();
    if (ids !== [...this.picked].join(",")) return;
    // Nothing new to see, or somebody is typing what nobody else has: what is typed stays.
    if (html === this.shown) return;
    const sheet = $("sheet");
    const same = ids === this.shownFor;
    [this.shown, this.shownFor] = [html, ids];
    const focus = sheet.contains(document.activeElement) ? document.activeElement.id : null;
    const typed = same ? [...sheet.querySelectorAll("input[id]")].filter((i) => i.type !== "range" && i.value !== i.defaultValue).map((i) => [i.id, i.value]) : [];
    const open = new Map([...sheet.querySelectorAll("details[data-keep]")].map((d) => [d.dataset.keep, d.open]));
    const scroll = sheet.scrollTop;
    sheet.innerHTML = html;
    sheet.querySelectorAll("details[data-keep]").forEach((d) => open.has(d.dataset.keep) && (d.open = open.get(d.dataset.keep)));
    window.htmx?.process(sheet);
    if (same) sheet.scrollTop = scroll;
    for (const [id, value] of typed) if ($(id)) $(id).value = value;
    if (focus) $(focus)?.focus({ preventScroll: true });
  }

  /** A form of the sheet was saved: its fields are no longer somebody's own. */
  saved(form) {
    if (form.getAttribute("hx-trigger") === "change") form.querySelectorAll("input").forEach((i) => (i.defaultValue = i.value));
    else form.reset?.();
  }

  async list(page = this.listPage ?? 0) {
    if (!$("board-list").open) return;
    this.listPage = page;
    const response = await fetch(`/jobs/${this.job}/ground/list?page=${page}`).catch(() => null);
    if (response?.ok) $("board-rows").innerHTML = await response.text();
  }

  // Picking -----------------------------------------------------------------------------------

  pick(ids) {
    this.picked = new Set(ids);
    this.mark();
    this.sheet();
  }

  mark() {
    this.svg.querySelectorAll(".picked").forEach((e) => e.classList.remove("picked"));
    this.over.replaceChildren();
    for (const id of this.picked) $(`t-${id}`)?.classList.add("picked");
    if (this.picked.size === 1 && this.tool === "pick") {
      const element = $(`t-${[...this.picked][0]}`);
      if (element) drawHandles(this.over, element);
    }
    if (this.draft) this.preview();
  }

  restore(element) {
    if (!element) return;
    element.removeAttribute("transform");
    const rings = ringsOf(element);
    if (rings) element.querySelector("path")?.setAttribute("d", pathOf(rings, !isOpen(element)));
    else if (element.classList.contains("head")) element.querySelector(".throw").setAttribute("d", sector(pointOf(element), this.headFigures(element)));
  }

  headFigures(element) {
    return { facing: Number(element.dataset.facing), arc: Number(element.dataset.arc), radius: Number(element.dataset.radius) };
  }

  // Tools -------------------------------------------------------------------------------------

  use(tool) {
    this.tool = tool;
    this.draft = null;
    this.closeEntry();
    this.ground.querySelectorAll("[data-tool]").forEach((b) => b.setAttribute("aria-pressed", b.dataset.tool === tool));
    this.stage.dataset.tool = tool;
    if (tool !== "pick") $("board-teach")?.remove();
    if (tool === "area" || tool === "dry") this.drawing = tool;
    this.mark();
    this.say(
      {
        area: "Click the corners, or point and type a length. The first corner again, or Enter, closes it.",
        dry: "Click the corners, or point and type a length. The first corner again, or Enter, closes it.",
        rect: "Click a corner, then the opposite one, or type both lengths.",
        tape: "Click the first known point.",
        cut: this.picked.size === 1 ? "Click where the line begins, then where it ends: right across." : "Pick what is to be parted first.",
        measure: "Click two points.",
        plant: "Click for one plant, drag for a row.",
        head: "Click where heads stand. On a corner or an edge they turn to the ground.",
        height: "Click where the height was measured.",
        note: "Click where the note begins.",
        place: "Click where it stands.",
        scale: "Click two points of the picture whose distance you know.",
        level: "Click two points of the picture that should lie level.",
        shift: "Click a point of the picture, then where it belongs.",
      }[tool] ?? "",
    );
    this.stage.focus({ preventScroll: true });
  }

  get kind() {
    return $(`${this.drawing ?? "area"}-kind`).value;
  }

  get line() {
    return this.tool === "dry" && LINES.includes($("dry-kind").value);
  }

  reach() {
    return this.view.live.mpp * 10;
  }

  snapped(event) {
    const p = this.view.ground(event);
    if (event.altKey) return { p, kind: "free" };
    const points = this.draft?.points ?? [];
    return this.snaps.find(p, this.reach(), { from: points.at(-1), before: points.at(-2), more: points.slice(0, -1) });
  }

  // Pointers ----------------------------------------------------------------------------------

  down(event) {
    if (event.target.closest("button, form, .board-teach")) return;
    this.stage.focus({ preventScroll: true });
    this.stage.setPointerCapture(event.pointerId);
    this.pointers.set(event.pointerId, [event.clientX, event.clientY]);
    if (this.pointers.size === 2) {
      // Two fingers: whatever one of them had begun is left.
      this.abandon();
      return;
    }
    const start = { x: event.clientX, y: event.clientY, p: this.view.ground(event), moved: false };
    const handle = event.target.closest("[data-handle]");
    const thing = event.target.closest(".thing");
    if (event.button === 1 || this.space) this.hold = { ...start, what: "pan" };
    else if (this.tool !== "pick") this.hold = { ...start, what: "tool" };
    else if (handle) this.hold = { ...start, what: "handle", handle, element: $(`t-${[...this.picked][0]}`) };
    else if (thing) this.hold = { ...start, what: "thing", id: thing.dataset.id, more: event.shiftKey };
    else this.hold = { ...start, what: event.shiftKey ? "box" : "pan" };
  }

  move(event) {
    const last = this.pointers.get(event.pointerId);
    if (last) this.pointers.set(event.pointerId, [event.clientX, event.clientY]);
    if (this.pointers.size === 2 && last) return this.pinch(event, last);
    const hold = this.hold;
    if (hold && !hold.moved && Math.hypot(event.clientX - hold.x, event.clientY - hold.y) > 4) hold.moved = true;
    if (!hold || hold.what === "tool") return this.hover(event);
    if (!hold.moved) return;
    if (hold.what === "pan") this.view.pan(event.clientX - last[0], event.clientY - last[1]);
    else if (hold.what === "handle") this.dragHandle(event, hold);
    else if (hold.what === "thing") this.dragThings(event, hold);
    else if (hold.what === "box") this.dragBox(event, hold);
  }

  up(event) {
    this.pointers.delete(event.pointerId);
    const hold = this.hold;
    this.hold = null;
    if (!hold) return;
    if (hold.what === "tool") return this.act(event, hold);
    if (hold.what === "handle" && hold.moved) return this.dropHandle(hold);
    if (hold.what === "thing" && hold.moved) return this.dropThings(hold);
    if (hold.what === "box") return this.dropBox(hold);
    if (hold.moved) return;
    if (hold.what === "thing") {
      if (!hold.more) return this.pick([hold.id]);
      const next = new Set(this.picked);
      if (!next.delete(hold.id)) next.add(hold.id);
      this.pick(next);
    } else if (hold.what === "pan") this.pick([]);
  }

  cancel(event) {
    this.pointers.delete(event.pointerId);
    this.abandon();
  }

  abandon() {
    for (const id of this.hold?.ids ?? []) this.restore($(`t-${id}`));
    if (this.hold?.element) this.restore(this.hold.element);
    this.hold = null;
    this.mark();
  }

  pinch(event, last) {
    const other = [...this.pointers].find(([id]) => id !== event.pointerId)[1];
    const box = this.stage.getBoundingClientRect();
    const now = [event.clientX, event.clientY];
    this.view.zoom(distance(now, other) / Math.max(1, distance(last, other)), (now[0] + other[0]) / 2 - box.left, (now[1] + other[1]) / 2 - box.top);
    this.view.pan((now[0] - last[0]) / 2, (now[1] - last[1]) / 2);
  }

  wheel(event) {
    event.preventDefault();
    const box = this.stage.getBoundingClientRect();
    if (event.ctrlKey || !event.shiftKey) this.view.zoom(Math.exp(-event.deltaY * 0.0016), event.clientX - box.left, event.clientY - box.top);
    else this.view.pan(-event.deltaY, 0);
  }

  // Dragging what is there --------------------------------------------------------------------

  dragHandle(event, hold) {
    const { element, handle } = hold;
    if (handle.dataset.handle === "corner") {
      const rings = ringsOf(element);
      const ring = rings[Number(handle.dataset.ring)];
      const i = Number(handle.dataset.index);
      const p = this.view.ground(event);
      const from = ring[(i + ring.length - 1) % ring.length];
      hold.p = event.altKey ? p : this.snaps.find(p, this.reach(), { from, skip: element.dataset.id }).p;
    } else hold.p = this.view.ground(event);
    if (ringsOf(element)) {
      const rings = dragged(element, handle, hold.p);
      element.querySelector("path").setAttribute("d", pathOf(rings, !isOpen(element)));
      this.lengthsBeside(rings[Number(handle.dataset.ring)], Number(handle.dataset.index), handle.dataset.handle === "corner");
    } else {
      hold.figures = headDragged(element, handle, hold.p);
      element.querySelector(".throw").setAttribute("d", sector(pointOf(element), hold.figures));
      this.say(`${hold.figures.arc}° looking to ${Math.round(hold.figures.facing)}°, throw ${showLength(hold.figures.radius, this.units)}`, "", true);
    }
  }

  lengthsBeside(ring, i, corner) {
    const n = ring.length;
    const before = edgeLength(ring[(i + n - 1) % n], ring[i]);
    const after = edgeLength(ring[i], ring[(i + 1) % n]);
    this.say(corner ? `${showLength(before, this.units)} · ${showLength(after, this.units)}` : showLength(after, this.units), "", true);
  }

  dropHandle(hold) {
    this.say("");
    const { element, handle } = hold;
    const id = element.dataset.id;
    if (ringsOf(element)) return this.wire.send(shapeGesture(element, handle, hold.p, this.reach() / 3));
    const { facing, arc, radius } = hold.figures;
    const was = this.headFigures(element);
    if (facing !== was.facing || arc !== was.arc) this.wire.send({ do: "turn-head", id, facing, arc });
    if (radius !== was.radius) this.wire.send({ do: "throw-head", ids: [id], radius: `${radius} m` });
  }

  dragThings(event, hold) {
    if (!hold.ids) {
      if (!this.picked.has(hold.id)) this.pick([hold.id]);
      hold.ids = [...this.picked];
      this.over.replaceChildren();
      hold.ends = hold.ids.flatMap((id) => (ringsOf($(`t-${id}`)) ?? [[pointOf($(`t-${id}`))]]).flat()).filter(Boolean);
    }
    const p = this.view.ground(event);
    let by = [p[0] - hold.p[0], p[1] - hold.p[1]];
    if (!event.altKey) {
      // A corner of what is moved that comes near an end elsewhere lies on it.
      let best = null;
      if (hold.ends.length < 400) {
        for (const end of hold.ends) {
          const to = [end[0] + by[0], end[1] + by[1]];
          for (const other of this.snaps.targets.ends) {
            if (hold.ids.includes(other[2])) continue;
            const d = distance(to, other);
            if (d < this.reach() && (!best || d < best.d)) best = { d, by: [other[0] - end[0], other[1] - end[1]] };
          }
        }
      }
      if (best) by = best.by;
      else if (Math.abs(by[0]) < this.reach() / 2) by[0] = 0;
      else if (Math.abs(by[1]) < this.reach() / 2) by[1] = 0;
    }
    hold.by = by;
    for (const id of hold.ids) $(`t-${id}`)?.setAttribute("transform", `translate(${by[0]} ${-by[1]})`);
    this.say(`${showLength(by[0], this.units)} right, ${showLength(by[1], this.units)} up`, "", true);
  }

  dropThings(hold) {
    this.say("");
    if (hold.by && (hold.by[0] || hold.by[1])) this.wire.send({ do: "move", ids: hold.ids, motion: { shift: { by: hold.by } } });
    else this.mark();
  }

  dragBox(event, hold) {
    const p = this.view.ground(event);
    hold.to = p;
    this.over.replaceChildren();
    make("path", { class: "box", d: pathOf([[hold.p, [p[0], hold.p[1]], p, [hold.p[0], p[1]]]]) }, this.over);
  }

  dropBox(hold) {
    if (!hold.to) return;
    const [l, r] = [hold.p[0], hold.to[0]].sort((a, b) => a - b);
    const [b, t] = [hold.p[1], hold.to[1]].sort((a, c) => a - c);
    const within = (p) => p[0] >= l && p[0] <= r && p[1] >= b && p[1] <= t;
    const ids = [...this.svg.querySelectorAll(".thing")].filter((e) => (ringsOf(e) ? ringsOf(e).flat() : [pointOf(e)]).every((p) => p && within(p))).map((e) => e.dataset.id);
    this.pick(ids);
  }

  // Drawing something new ---------------------------------------------------------------------

  hover(event) {
    if (this.tool === "pick") return;
    this.pointer = this.snapped(event);
    if (this.hold?.what === "tool" && this.tool === "plant" && this.hold.moved) this.draft ??= { points: [this.hold.p] };
    this.preview();
  }

  preview() {
    this.over.replaceChildren();
    const { draft, pointer } = this;
    if (!pointer) return;
    const points = draft?.points ?? [];
    if (pointer.guide) make("path", { class: "guide", d: pathOf([pointer.guide], false) }, this.over);
    if (points.length) {
      let ring = [...points, pointer.p];
      if (this.tool === "rect" && points.length === 1) ring = this.corners(points[0], pointer.p);
      make("path", { class: "draft", d: pathOf([ring], this.tool === "rect") }, this.over);
      const tag = this.mark2(pointer.p, 14, -12);
      tag.textContent =
        this.tool === "rect" ? `${showLength(Math.abs(pointer.p[0] - points[0][0]), this.units)} × ${showLength(Math.abs(pointer.p[1] - points[0][1]), this.units)}` : `${showLength(distance(points.at(-1), pointer.p), this.units)} · ${Math.round(direction(points.at(-1), pointer.p))}°`;
    }
    for (const p of draft?.choices ?? []) this.dot(p, "choice");
    for (const p of points) this.dot(p, "placed");
    this.dot(pointer.p, `pointer ${pointer.kind}`);
  }

  corners(a, b) {
    return [a, [b[0], a[1]], b, [a[0], b[1]]];
  }

  dot([x, y], kind) {
    const g = make("g", { class: `dot ${kind}`, transform: `translate(${x} ${-y})` }, this.over);
    make("circle", { r: kind === "choice" ? 9 : 5 }, make("g", { class: "px" }, g));
  }

  mark2([x, y], dx, dy) {
    const px = make("g", { class: "px" }, make("g", { transform: `translate(${x} ${-y})` }, this.over));
    return make("text", { class: "tag", x: dx, y: dy }, px);
  }

  /** A click, or the end of a drag, of a drawing tool. */
  act(event, hold) {
    this.pointer = this.snapped(event);
    const p = this.pointer.p;
    this[`act_${this.tool}`]?.(p, hold, event);
    if (this.tool !== "pick") this.preview();
  }

  act_area(p) {
    this.corner(p);
  }
  act_dry(p) {
    this.corner(p);
  }
  corner(p) {
    this.draft ??= { points: [] };
    const { points } = this.draft;
    if (points.length >= (this.line ? 1 : 2) && (distance(p, points[0]) < this.reach() / 2 || distance(p, points.at(-1)) < this.reach() / 4)) return this.finish();
    points.push(p);
    if (points.length > 1) this.say("");
  }

  /** Closes what is drawn and sends it. */
  finish() {
    const points = this.draft?.points ?? [];
    if (this.tool === "area" || this.tool === "dry") {
      if (points.length < (this.line ? 2 : 3)) return this.say(this.line ? "A line needs two points." : "Ground needs three corners or more.", "stop");
      this.draft = null;
      this.add(points);
    } else this.draft = null;
    this.preview();
  }

  add(points) {
    const id = newName(this.tool === "dry" || this.drawing === "dry" ? "d" : "a");
    const dry = this.tool === "dry" || (this.tool === "rect" && this.drawing === "dry");
    const kind = dry ? $("dry-kind").value : $("area-kind").value;
    const what = dry ? { is: "dry", kind, form: LINES.includes(kind) ? { line: points } : { region: { outline: points } } } : { is: "area", kind, shape: { outline: points } };
    this.newThing(id, what, LINES.includes(kind) && dry ? [points] : [points], `${dry ? "dry" : "area"} ${kind}`, LINES.includes(kind) && dry);
  }

  /** Shown at once as it was drawn; the server's drawing takes its place. */
  newThing(id, what, rings, look, open = false) {
    if (rings) {
      const g = make("g", { id: `t-${id}`, class: `thing ${look} waiting`, "data-id": id, "data-rings": JSON.stringify(rings), ...(open ? { "data-open": "yes" } : {}) }, $(open ? "y-lines" : "y-ground"));
      make("path", { d: pathOf(rings, !open) }, g);
      this.snaps.stale();
    }
    this.wire.send({ do: "add", thing: { id, what } });
    this.picked = new Set([id]);
  }

  act_rect(p) {
    if (!this.draft) {
      this.draft = { points: [p] };
      return;
    }
    const ring = this.corners(this.draft.points[0], p);
    this.draft = null;
    this.add(ring);
  }

  act_head(p) {
    this.wire.send({ do: "set-head", id: newName("h"), at: p, nozzle: $("head-nozzle").value, group: newName("g"), valve: $("head-valve").value || null });
  }

  act_place(p) {
    this.newThing(newName("p"), { is: "place", kind: $("place-kind").value, at: p });
  }

  act_plant(p, hold) {
    const start = this.draft?.points[0] ?? hold.p;
    this.draft = null;
    const canopy = this.units === "us" ? 4 * 0.3048 : 1.2;
    const count = Math.floor(distance(start, p) / canopy) + 1;
    if (hold.moved && count > 1) this.newThing(newName("l"), { is: "plant", canopy: `${canopy} m`, at: start, to: p, count });
    else this.newThing(newName("l"), { is: "plant", canopy: `${canopy} m`, at: p });
  }

  act_height(p) {
    this.openEntry("Height", null, "", (text) => {
      const metres = parseLength(text, this.units);
      if (metres === null) return "Write a height, e.g. 2'6 or 0.75 m.";
      this.newThing(newName("s"), { is: "height", at: p, height: `${metres} m` });
    });
  }

  act_note(p) {
    this.openEntry("Note", null, "", (text) => {
      if (!text.trim()) return "Write a word or more.";
      this.newThing(newName("n"), { is: "note", at: p, text: text.trim().slice(0, 500) });
    });
  }

  act_measure(p) {
    if (!this.draft) this.draft = { points: [p] };
    else {
      const [a] = this.draft.points;
      this.say(`${showLength(distance(a, p), this.units)}, ${Math.round(direction(a, p))}° · ${showLength(Math.abs(p[0] - a[0]), this.units)} across, ${showLength(Math.abs(p[1] - a[1]), this.units)} up`, "", true);
      this.draft = null;
    }
  }

  act_cut(p) {
    if (this.picked.size !== 1) return this.say("Pick what is to be parted first (V).", "stop");
    if (!this.draft) {
      this.draft = { points: [p] };
      return;
    }
    const [from] = this.draft.points;
    this.draft = null;
    const names = Array.from({ length: 12 }, () => newName("a"));
    this.wire.send({ do: "split", id: [...this.picked][0], from, to: p, new: names });
    this.use("pick");
  }

  /** Two tapes: two known points, two lengths, then which of the two places. */
  act_tape(p) {
    const tape = (this.tapes ??= { points: [], draft: this.tapeDraft });
    if (tape.choices) {
      const chosen = tape.choices.reduce((a, b) => (distance(a, p) <= distance(b, p) ? a : b));
      this.tapes = null;
      const points = this.tapeDraft ?? [];
      this.tapeDraft = null;
      this.use(this.drawing ?? "area");
      this.draft = { points: [...points, chosen] };
      this.say("Corner set. Go on drawing, or use Two tapes again.");
      return;
    }
    tape.points.push(p);
    this.draft = { points: tape.points };
    if (tape.points.length === 1) return this.say("Click the second known point.");
    this.openEntry("First tape", "Second tape", "", async (a, b) => {
      const [[ax, ay], [bx, by]] = tape.points;
      const query = new URLSearchParams({ ax, ay, a, bx, by, b });
      const response = await fetch(`/jobs/${this.job}/ground/tapes?${query}`).catch(() => null);
      const body = response && (await response.json().catch(() => null));
      if (!response?.ok) return body?.message ?? "No connection: try again in a moment.";
      tape.choices = body.points;
      this.draft = { points: [], choices: body.points };
      this.say("The tapes meet in two places: click the right one.", "", true);
      this.preview();
    });
  }

  async picture(form) {
    const response = await fetch(`/jobs/${this.job}/ground/picture/set`, { method: "POST", body: new URLSearchParams({ base: this.wire.seen, ...form }) }).catch(() => null);
    if (!response?.ok) this.say(response ? (await response.json().catch(() => ({}))).message ?? "That can't be done." : "No connection: try again in a moment.", "stop");
    else this.wire.catchUp();
    this.use("pick");
  }

  pair(p, then) {
    if (!this.draft) {
      this.draft = { points: [p] };
      return;
    }
    const [a] = this.draft.points;
    this.draft = { points: [a, p] };
    then(a, p);
  }

  act_scale(p) {
    this.pair(p, (a, b) => this.openEntry("Length between them", null, "", (text) => void this.picture({ ax: a[0], ay: a[1], bx: b[0], by: b[1], apart: text })));
  }
  act_level(p) {
    this.pair(p, (a, b) => this.picture({ ax: a[0], ay: a[1], bx: b[0], by: b[1], level: "yes" }));
  }
  act_shift(p) {
    this.pair(p, (a, b) => this.picture({ right: b[0] - a[0], up: b[1] - a[1] }));
  }

  double(event) {
    if (this.draft?.points.length >= 2) this.finish();
    else if (this.tool === "pick" && this.picked.size === 1) {
      // A new corner where an edge is clicked twice.
      const element = $(`t-${[...this.picked][0]}`);
      const rings = ringsOf(element);
      if (!rings) return;
      const p = this.view.ground(event);
      let best = null;
      rings.forEach((ring, r) => {
        const last = isOpen(element) ? ring.length - 1 : ring.length;
        for (let i = 0; i < last; i++) {
          const [a, b] = [ring[i], ring[(i + 1) % ring.length]];
          const t = Math.max(0, Math.min(1, ((p[0] - a[0]) * (b[0] - a[0]) + (p[1] - a[1]) * (b[1] - a[1])) / (distance(a, b) ** 2 || 1)));
          const foot = [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
          const d = a[2] ? distance(p, foot) / 2 : distance(p, foot);
          if (!best || d < best.d) best = { d, r, i, at: a[2] ? p : foot };
        }
      });
      if (best && best.d < this.reach() * 2) this.wire.send({ do: "insert-corner", id: element.dataset.id, ring: best.r, edge: best.i, at: best.at });
    }
  }

  // Typed figures -----------------------------------------------------------------------------

  openEntry(first, second, typed, then) {
    const entry = $("entry");
    this.entering = then;
    entry.hidden = false;
    entry.querySelector("label[for=entry-length]").textContent = first;
    const angle = $("entry-angle").parentElement;
    angle.hidden = !second;
    if (second) angle.querySelector("label").textContent = second;
    $("entry-angle").placeholder = second === "Angle °" ? "as shown" : "";
    $("entry-length").value = typed;
    $("entry-angle").value = "";
    $("entry-error").textContent = "";
    const at = this.pointer ? this.view.pixel(this.pointer.p) : [200, 200];
    entry.style.left = `${Math.max(8, Math.min(this.stage.clientWidth - 270, at[0] + 16))}px`;
    entry.style.top = `${Math.max(8, Math.min(this.stage.clientHeight - 96, at[1] + 16))}px`;
    $("entry-length").focus();
  }

  closeEntry() {
    $("entry").hidden = true;
    this.entering = null;
  }

  async enter() {
    const then = this.entering;
    const wrong = await then?.($("entry-length").value, $("entry-angle").value);
    if (wrong) {
      $("entry-error").textContent = wrong;
      $("entry-length").focus();
    } else {
      if (this.entering === then) this.closeEntry();
      this.stage.focus();
    }
  }

  /** A length typed while an edge is drawn: in the direction that is pointed at, or at an angle. */
  typeLength(first) {
    if (this.tool === "rect") {
      const [a] = this.draft.points;
      const to = this.pointer?.p ?? [a[0] + 1, a[1] + 1];
      return this.openEntry("Along", "Up", first, (along, up) => {
        const [w, h] = [parseLength(along, this.units), parseLength(up, this.units)];
        if (!w || !h) return "Write both lengths, e.g. 40' and 25'6.";
        const ring = this.corners(a, [a[0] + w * (to[0] < a[0] ? -1 : 1), a[1] + h * (to[1] < a[1] ? -1 : 1)]);
        this.draft = null;
        this.add(ring);
      });
    }
    this.openEntry("Length", "Angle °", first, (text, angle) => {
      const metres = parseLength(text, this.units);
      if (!metres || metres < 0) return "Write a length, e.g. 12'6 or 3.8 m.";
      const from = this.draft.points.at(-1);
      const degrees = angle.trim() === "" ? direction(from, this.pointer?.p ?? [from[0] + 1, from[1]]) : Number(angle.replace("°", "").replace(",", "."));
      if (!Number.isFinite(degrees)) return "The angle is a number of degrees: 0 is to the right, 90 up.";
      const p = toward(from, degrees, metres);
      if (this.tool === "area" || this.tool === "dry") this.corner(p);
      else this[`act_${this.tool}`]?.(p, {});
      this.pointer = { p: toward(p, degrees, metres / 4), kind: "free" };
      this.preview();
    });
  }

  // Keys --------------------------------------------------------------------------------------

  key(event) {
    if (event.target !== this.stage) return;
    const { key } = event;
    if ((event.ctrlKey || event.metaKey) && key.toLowerCase() === "a") {
      event.preventDefault();
      return this.pick([...this.svg.querySelectorAll(".thing")].map((e) => e.dataset.id));
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const nudge = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[key];
    const stop = () => {
      event.preventDefault();
      event.stopPropagation();
    };
    if (this.draft?.points.length && /^[0-9.]$/.test(key) && this.tool !== "tape") {
      stop();
      return this.typeLength(key);
    }
    if (nudge) {
      stop();
      if (!this.picked.size) return this.view.pan(-nudge[0] * 60, nudge[1] * 60);
      const step = this.units === "us" ? (event.shiftKey ? 0.3048 : 0.0254) : event.shiftKey ? 0.1 : 0.01;
      return this.wire.send({ do: "move", ids: [...this.picked], motion: { shift: { by: [nudge[0] * step, nudge[1] * step] } } });
    }
    const tools = { v: "pick", a: "area", d: "dry", e: "head", p: "place", l: "plant", h: "height", n: "note", r: "rect", t: "tape", x: "cut", m: "measure" };
    if (tools[key]) {
      stop();
      return this.choose(tools[key]);
    }
    if (key === "Escape") {
      stop();
      if (this.hold) this.abandon();
      else if (this.draft) {
        this.draft = null;
        this.tapes = null;
        this.preview();
      } else if (this.tool !== "pick") this.use("pick");
      else this.pick([]);
    } else if (key === "Enter" && this.draft) {
      stop();
      this.finish();
    } else if (key === "Backspace" && this.draft) {
      stop();
      this.draft.points.pop();
      if (!this.draft.points.length) this.draft = null;
      this.preview();
    } else if ((key === "Delete" || key === "Backspace") && this.picked.size) {
      stop();
      this.wire.send({ do: "remove", ids: [...this.picked] });
    } else if (key === "+" || key === "=") {
      stop();
      this.view.zoom(1.3);
    } else if (key === "-") {
      stop();
      this.view.zoom(1 / 1.3);
    } else if (key === "0" || key === "f") {
      stop();
      this.fit();
    }
  }

  choose(tool) {
    // Two tapes in the middle of an outline: the corner found belongs to it.
    if (tool === "tape") this.tapeDraft = this.draft?.points ?? null;
    this.tapes = null;
    this.use(tool);
  }

  click(event) {
    const tool = event.target.closest("[data-tool]");
    if (tool && tool !== this.stage) return this.choose(tool.dataset.tool);
    const pick = event.target.closest("[data-pick]");
    if (pick) return this.pick([pick.dataset.pick]);
    if (event.target.closest("[data-unpick]")) {
      this.pick([]);
      return this.stage.focus();
    }
    const page = event.target.closest("[data-list-page]");
    if (page) return this.list(Number(page.dataset.listPage));
    if (event.target.closest("#zoom-in")) this.view.zoom(1.3);
    else if (event.target.closest("#zoom-out")) this.view.zoom(1 / 1.3);
    else if (event.target.closest("#zoom-fit")) this.fit();
  }

  /** All that is drawn now. */
  fit() {
    const points = [...this.svg.querySelectorAll(".thing")].flatMap((e) => (ringsOf(e) ? ringsOf(e).flat() : [pointOf(e)])).filter(Boolean);
    if (points.length > 1) {
      const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
      const ends = (list) => list.reduce(([a, b], v) => [Math.min(a, v), Math.max(b, v)], [Infinity, -Infinity]);
      const [[l, r], [b, t]] = [ends(xs), ends(ys)];
      const m = Math.max(1, Math.max(r - l, t - b) * 0.06);
      this.svg.dataset.frame = [l - m, b - m, r + m, t + m].join(",");
    }
    this.view.fit();
  }

  // What is seen ------------------------------------------------------------------------------

  seen(view) {
    const { mpp } = view.live;
    const unit = this.units === "us" ? 0.3048 : 1;
    const wanted = (110 * mpp) / unit;
    const power = 10 ** Math.floor(Math.log10(wanted));
    const step = [5, 2, 1].find((n) => n * power <= wanted) * power;
    const bar = $("scale-bar");
    bar.querySelector("i").style.width = `${(step * unit) / mpp}px`;
    bar.querySelector("span").textContent = this.units === "us" ? (step < 1 ? `${Math.round(step * 12)} in` : `${step} ft`) : step < 1 ? `${Math.round(step * 100)} cm` : `${step} m`;
    // Small print only where there is room for it.
    this.svg.classList.toggle("far", mpp > 0.14);
  }
}

let board = null;
const begin = () => {
  const ground = $("ground");
  if (board?.ground === ground) return;
  const same = board && ground && board.job === ground.dataset.job;
  const kept = board?.leave();
  board = ground ? new Board(ground, same ? kept : null) : null;
};
begin();
document.addEventListener("htmx:afterSettle", begin);

// A drawing on its way up shows how far it is.
document.addEventListener("submit", (event) => {
  const form = event.target.closest("form.import");
  if (!form) return;
  event.preventDefault();
  const bar = form.querySelector("progress");
  const sending = new XMLHttpRequest();
  bar.hidden = false;
  sending.upload.addEventListener("progress", (e) => e.lengthComputable && (bar.value = e.loaded / e.total));
  sending.addEventListener("load", () => {
    if (sending.status < 400 && sending.responseURL && !sending.responseURL.endsWith("/ground/import")) location.assign(sending.responseURL);
    else {
      bar.hidden = true;
      const notice = $("notice");
      notice.innerHTML = sending.responseText.includes("<p>") ? sending.responseText : "";
      if (!notice.innerHTML) notice.textContent = "That file can't be brought in.";
    }
  });
  sending.addEventListener("error", () => ((bar.hidden = true), ($("notice").textContent = "No connection: the file was not sent.")));
  sending.open("POST", form.action);
  sending.setRequestHeader("hx-request", "true");
  sending.send(new FormData(form));
});
