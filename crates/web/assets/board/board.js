// The board: pointer and keys. Nothing of the job is computed here; a gesture ends in one edit
// that the server works out, and the drawing of what changed comes back.

import { drawing } from "./drawing.js";
import { dragging } from "./dragging.js";
import { drawHandles, sector } from "./handles.js";
import { LINES } from "./kinds.js";
import { distance, isOpen, pathOf, pointOf, ringsOf } from "./shape.js";
import { Snaps } from "./snap.js";
import { typing } from "./typing.js";
import { View } from "./view.js";
import { watering } from "./water.js";
import { Wire } from "./wire.js";

const $ = (id) => document.getElementById(id);

class Board extends drawing(dragging(typing(watering(Object)))) {
  constructor(ground, kept) {
    super();
    Object.assign(this, {
      ground,
      stage: $("stage"),
      svg: $("board"),
      over: $("over"),
      job: ground.dataset.job,
      units: ground.dataset.units,
    });
    this.picked = new Set();
    this.tool = "pick";
    this.pointers = new Map();
    this.snaps = new Snaps(this.svg);
    this.view = new View(
      this.stage,
      this.svg,
      (view) => this.seen(view),
      (count) => this.untold(count),
    );
    if (kept) {
      this.view.live = kept.live;
      this.view.settle();
    }
    this.wire = new Wire(this.job, Number(ground.dataset.seq), {
      changes: (changes) => this.show(changes),
      refused: (gesture, why) => this.refused(gesture, why),
      waiting: (count) => this.waiting(count),
      reload: () => location.reload(),
    });
    this.off = new AbortController();
    const on = (target, type, act, more = {}) =>
      target.addEventListener(type, act, { signal: this.off.signal, ...more });
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
    on($("water"), "change", () => this.windChanged());
    on(
      document.body,
      "htmx:afterRequest",
      (e) =>
        e.detail.successful &&
        $("sheet").contains(e.detail.elt) &&
        this.saved(e.detail.elt.closest("form") ?? e.detail.elt),
    );
    on(document.body, "board-changed", () => this.wire.catchUp().then(() => this.sheet()));
    this.seen(this.view);
    this.turnNorth(Number($("north").dataset.degrees));
    // The page was drawn anew, by Undo or a remedy: the water stays in sight.
    this.water = kept?.water ?? null;
    this.askWater();
  }

  leave() {
    this.off.abort();
    this.wire.close();
    return { live: this.view.live, water: this.water };
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
      const fresh = new DOMParser().parseFromString(
        `<svg xmlns="http://www.w3.org/2000/svg">${part.svg}</svg>`,
        "image/svg+xml",
      ).documentElement.firstChild;
      const old = $(part.id);
      if (old && old.parentElement.id === `y-${part.layer}`)
        old.replaceWith(document.importNode(fresh, true));
      else {
        old?.remove();
        const layer = $(`y-${part.layer}`);
        const before = part.after && $(part.after);
        if (before) before.after(document.importNode(fresh, true));
        else layer.append(document.importNode(fresh, true));
      }
    }
    for (const id of changes.gone) $(id)?.remove();
    if (changes.heads) {
      const there = new Set(changes.heads);
      this.svg.querySelectorAll("#y-heads > g, #y-pipes > g").forEach((e) => there.has(e.id) || e.remove());
    }
    if (changes.underlay !== null) {
      const fresh = new DOMParser().parseFromString(
        `<svg xmlns="http://www.w3.org/2000/svg">${changes.underlay}</svg>`,
        "image/svg+xml",
      ).documentElement;
      $("y-underlay").replaceChildren(...[...fresh.childNodes].map((n) => document.importNode(n, true)));
    }
    if (changes.north !== null) this.turnNorth(changes.north);
    $("things").textContent = changes.things;
    if (changes.things) $("board-teach")?.remove();
    this.snaps.stale();
    this.picked.forEach((id) => !$(`t-${id}`) && this.picked.delete(id));
    this.mark();
    if (
      changes.changed.length ||
      changes.gone.length ||
      changes.heads ||
      changes.north !== null ||
      changes.underlay !== null
    ) {
      this.sheet();
      this.askWater();
      if ($("board-list").open) this.list();
    }
  }

  /** Not done: said where it is to be seen, and what was drawn is still in the hand. */
  refused(gesture, { message, about, place }) {
    for (const id of gesture.ids ?? [gesture.id]) this.restore($(`t-${id}`));
    document.querySelectorAll("#board .waiting").forEach((e) => e.remove());
    this.mark();
    const outline =
      gesture.do === "add" && (gesture.thing.what.shape ?? gesture.thing.what.form?.region)?.outline;
    if (outline && this.tool !== "pick" && !this.draft) {
      this.draft = { points: outline };
      this.pointer ??= { p: outline.at(-1), kind: "free" };
      this.preview();
      message += " Backspace takes the last corner back.";
    }
    this.sayAt(message, place ?? this.placeOf(about));
  }

  placeOf(id) {
    const element = id && $(`t-${id}`);
    return element ? (pointOf(element) ?? ringsOf(element)?.[0][0] ?? null) : null;
  }

  /** A refusal beside the place that is to blame, or at the top where there is none in view. */
  sayAt(message, place) {
    const [x, y] = place ? this.view.pixel(place) : [-1, -1];
    const [w, h] = [this.stage.clientWidth, this.stage.clientHeight];
    this.say(message, "stop");
    this.blamed = x >= 0 && y >= 0 && x <= w && y <= h ? place : null;
    this.stand();
  }

  /** The refusal stays at its place while the ground is panned. */
  stand() {
    const says = $("board-says");
    $("board-blame").toggleAttribute("hidden", !this.blamed);
    says.classList.toggle("placed", Boolean(this.blamed));
    [says.style.left, says.style.top] = ["", ""];
    if (!this.blamed) return;
    const [x, y] = this.view.pixel(this.blamed);
    const [w, h] = [this.stage.clientWidth, this.stage.clientHeight];
    [$("board-blame").style.left, $("board-blame").style.top] = [`${x}px`, `${y}px`];
    const left = Math.min(Math.max(8, x - says.offsetWidth / 2), Math.max(8, w - says.offsetWidth - 8));
    const below = y + 22 + says.offsetHeight < h;
    [says.style.left, says.style.top] = [`${left}px`, `${below ? y + 20 : y - 20 - says.offsetHeight}px`];
  }

  /** Lengths that have no place at this scale. */
  untold(count) {
    $("untold").textContent = count
      ? `${count} ${count > 1 ? "lengths or names have" : "length or name has"} no room at this scale: closer, or pick`
      : "";
  }

  waiting(count) {
    this.stage.classList.toggle("away", this.wire?.away ?? true);
    if (this.wire?.away !== false)
      this.say(
        count
          ? `No connection. ${count} change${count > 1 ? "s wait" : " waits"} here and will be saved when it is back.`
          : "No connection. You can go on drawing; it is saved when it is back.",
        "watch",
        true,
      );
    else this.say("Connected again. Everything is saved.", "ok");
  }

  say(text, kind = "", stay = false) {
    const place = $("board-says");
    place.className = `board-says ${kind}`;
    place.textContent = text;
    this.blamed = null;
    this.stand();
    clearTimeout(this.hush);
    if (text && !stay) this.hush = setTimeout(() => this.say(""), kind === "stop" ? 12000 : 5000);
  }

  turnNorth(degrees) {
    $("north-arrow").setAttribute("transform", `rotate(${degrees})`);
  }

  // The sheet and the list --------------------------------------------------------------------

  async sheet() {
    const ids = [...this.picked].join(",");
    const response = await fetch(`/jobs/${this.job}/ground/sheet?ids=${encodeURIComponent(ids)}`).catch(
      () => null,
    );
    if (!response?.ok) return;
    const html = await response.text();
    if (ids !== [...this.picked].join(",")) return;
    // The page was left for a newer one meanwhile.
    if (this.off.signal.aborted) return;
    // Nothing new to see, or somebody is typing what nobody else has: what is typed stays.
    if (html === this.shown) return;
    const sheet = $("sheet");
    const same = ids === this.shownFor;
    [this.shown, this.shownFor] = [html, ids];
    const focus = sheet.contains(document.activeElement) ? document.activeElement.id : null;
    const typed = same
      ? [...sheet.querySelectorAll("input[id]")]
          .filter((i) => i.type !== "range" && i.value !== i.defaultValue)
          .map((i) => [i.id, i.value])
      : [];
    const open = new Map(
      [...sheet.querySelectorAll("details[data-keep]")].map((d) => [d.dataset.keep, d.open]),
    );
    const scroll = sheet.scrollTop;
    sheet.innerHTML = html;
    sheet
      .querySelectorAll("details[data-keep]")
      .forEach((d) => open.has(d.dataset.keep) && (d.open = open.get(d.dataset.keep)));
    window.htmx?.process(sheet);
    if (same) sheet.scrollTop = scroll;
    for (const [id, value] of typed) if ($(id)) $(id).value = value;
    if (focus) $(focus)?.focus({ preventScroll: true });
  }

  /** A form of the sheet was saved: its fields are no longer somebody's own. */
  saved(form) {
    if (form.getAttribute("hx-trigger") === "change")
      form.querySelectorAll("input").forEach((i) => (i.defaultValue = i.value));
    else form.reset?.();
  }

  async list(page = this.listPage ?? 0) {
    if (!$("board-list").open) return;
    this.listPage = page;
    const response = await fetch(`/jobs/${this.job}/ground/list?page=${page}`).catch(() => null);
    if (response?.ok && !this.off.signal.aborted) $("board-rows").innerHTML = await response.text();
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
    this.view.labels.soon();
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
    else if (element.classList.contains("head") && !element.dataset.strip)
      element.querySelector(".throw").setAttribute("d", sector(pointOf(element), this.headFigures(element)));
  }

  headFigures(element) {
    return {
      facing: Number(element.dataset.facing),
      arc: Number(element.dataset.arc),
      radius: Number(element.dataset.radius),
    };
  }

  // Tools -------------------------------------------------------------------------------------

  use(tool) {
    this.tool = tool;
    this.draft = null;
    this.closeEntry();
    this.ground
      .querySelectorAll("[data-tool]")
      .forEach((b) => b.setAttribute("aria-pressed", b.dataset.tool === tool));
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
        cut:
          this.picked.size === 1
            ? "Click where the line begins, then where it ends: right across."
            : "Pick what is to be parted first.",
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
    return this.snaps.find(p, this.reach(), {
      from: points.at(-1),
      before: points.at(-2),
      more: points.slice(0, -1),
      divide: this.tool === "head",
    });
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
    // A finger moves only what is picked: elsewhere it pans, and a tap picks.
    else if (thing && event.pointerType === "touch" && !this.picked.has(thing.dataset.id))
      this.hold = { ...start, what: "pan", tap: thing.dataset.id };
    else if (thing) this.hold = { ...start, what: "thing", id: thing.dataset.id, more: event.shiftKey };
    else this.hold = { ...start, what: event.shiftKey ? "box" : "pan" };
  }

  move(event) {
    const last = this.pointers.get(event.pointerId);
    if (last) this.pointers.set(event.pointerId, [event.clientX, event.clientY]);
    if (this.pointers.size === 2 && last) return this.pinch(event, last);
    const hold = this.hold;
    if (hold && !hold.moved && Math.hypot(event.clientX - hold.x, event.clientY - hold.y) > 4)
      hold.moved = true;
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
    } else if (hold.what === "pan") this.pick(hold.tap ? [hold.tap] : []);
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
      return this.wire.send({
        do: "move",
        ids: [...this.picked],
        motion: { shift: { by: [nudge[0] * step, nudge[1] * step] } },
      });
    }
    const tools = {
      v: "pick",
      a: "area",
      d: "dry",
      e: "head",
      p: "place",
      l: "plant",
      h: "height",
      n: "note",
      r: "rect",
      t: "tape",
      x: "cut",
      m: "measure",
    };
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
    const water = event.target.closest("[data-water]");
    if (water) return this.showWater(water.dataset.water);
    if (event.target.closest("[data-water-off]")) return this.hideWater();
    const page = event.target.closest("[data-list-page]");
    if (page) return this.list(Number(page.dataset.listPage));
    if (event.target.closest("#zoom-in")) this.view.zoom(1.3);
    else if (event.target.closest("#zoom-out")) this.view.zoom(1 / 1.3);
    else if (event.target.closest("#zoom-fit")) this.fit();
  }

  /** All that is drawn now. */
  fit() {
    const points = [...this.svg.querySelectorAll(".thing")]
      .flatMap((e) => (ringsOf(e) ? ringsOf(e).flat() : [pointOf(e)]))
      .filter(Boolean);
    if (points.length > 1) {
      const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
      const ends = (list) =>
        list.reduce(([a, b], v) => [Math.min(a, v), Math.max(b, v)], [Infinity, -Infinity]);
      const [[l, r], [b, t]] = [ends(xs), ends(ys)];
      const m = Math.max(1, Math.max(r - l, t - b) * 0.06);
      this.svg.dataset.frame = [l - m, b - m, r + m, t + m].join(",");
    }
    this.view.fit();
  }

  // What is seen ------------------------------------------------------------------------------

  seen(view) {
    const { mpp } = view.live;
    if (this.blamed) this.stand();
    const unit = this.units === "us" ? 0.3048 : 1;
    const wanted = (110 * mpp) / unit;
    const power = 10 ** Math.floor(Math.log10(wanted));
    const step = [5, 2, 1].find((n) => n * power <= wanted) * power;
    const bar = $("scale-bar");
    bar.querySelector("i").style.width = `${(step * unit) / mpp}px`;
    bar.querySelector("span").textContent =
      this.units === "us"
        ? step < 1
          ? `${Math.round(step * 12)} in`
          : `${step} ft`
        : step < 1
          ? `${Math.round(step * 100)} cm`
          : `${step} m`;
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
  bar.value = 0;
  sending.upload.addEventListener("progress", (e) => e.lengthComputable && (bar.value = e.loaded / e.total));
  // Sent; now it is read, which takes a second for the largest.
  sending.upload.addEventListener("load", () => bar.removeAttribute("value"));
  sending.addEventListener("load", () => {
    if (sending.status < 400 && sending.responseURL && !sending.responseURL.endsWith("/ground/import"))
      location.assign(sending.responseURL);
    else {
      bar.hidden = true;
      const notice = $("notice");
      notice.innerHTML = sending.responseText.includes("<p>") ? sending.responseText : "";
      if (!notice.innerHTML) notice.textContent = "That file can't be brought in.";
    }
  });
  sending.addEventListener(
    "error",
    () => ((bar.hidden = true), ($("notice").textContent = "No connection: the file was not sent.")),
  );
  sending.open("POST", form.action);
  sending.setRequestHeader("hx-request", "true");
  sending.send(new FormData(form));
});
