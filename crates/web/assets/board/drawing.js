// Drawing something new: one tool, one method; each ends in one gesture.

import { LINES } from "./kinds.js";
import { parseLength, showLength } from "./length.js";
import { direction, distance, isOpen, make, newName, pathOf, ringsOf } from "./shape.js";

const $ = (id) => document.getElementById(id);

export const drawing = (Base) =>
  class extends Base {
    hover(event) {
      if (this.tool === "pick") return;
      this.pointer = this.snapped(event);
      if (this.hold?.what === "tool" && this.tool === "plant" && this.hold.moved)
        this.draft ??= { points: [this.hold.p] };
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
          this.tool === "rect"
            ? `${showLength(Math.abs(pointer.p[0] - points[0][0]), this.units)} × ${showLength(Math.abs(pointer.p[1] - points[0][1]), this.units)}`
            : `${showLength(distance(points.at(-1), pointer.p), this.units)} · ${Math.round(direction(points.at(-1), pointer.p))}°`;
      }
      for (const p of draft?.choices ?? []) this.dot(p, "choice");
      for (const p of points) this.dot(p, "placed");
      this.dot(pointer.p, `pointer ${pointer.kind}`);
      if (pointer.says) this.mark2(pointer.p, 12, -10).textContent = pointer.says;
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
      if (
        points.length >= (this.line ? 1 : 2) &&
        (distance(p, points[0]) < this.reach() / 2 || distance(p, points.at(-1)) < this.reach() / 4)
      )
        return this.finish();
      points.push(p);
      if (points.length > 1) this.say("");
    }

    /** Closes what is drawn and sends it. */
    finish() {
      const points = this.draft?.points ?? [];
      if (this.tool === "area" || this.tool === "dry") {
        if (points.length < (this.line ? 2 : 3))
          return this.say(
            this.line ? "A line needs two points." : "Ground needs three corners or more.",
            "stop",
          );
        this.draft = null;
        this.add(points);
      } else this.draft = null;
      this.preview();
    }

    add(points) {
      const id = newName(this.tool === "dry" || this.drawing === "dry" ? "d" : "a");
      const dry = this.tool === "dry" || (this.tool === "rect" && this.drawing === "dry");
      const kind = dry ? $("dry-kind").value : $("area-kind").value;
      const what = dry
        ? { is: "dry", kind, form: LINES.includes(kind) ? { line: points } : { region: { outline: points } } }
        : { is: "area", kind, shape: { outline: points } };
      this.newThing(
        id,
        what,
        LINES.includes(kind) && dry ? [points] : [points],
        `${dry ? "dry" : "area"} ${kind}`,
        LINES.includes(kind) && dry,
      );
    }

    /** Shown at once as it was drawn; the server's drawing takes its place. */
    newThing(id, what, rings, look, open = false) {
      if (rings) {
        const g = make(
          "g",
          {
            id: `t-${id}`,
            class: `thing ${look} waiting`,
            "data-id": id,
            "data-rings": JSON.stringify(rings),
            ...(open ? { "data-open": "yes" } : {}),
          },
          $(open ? "y-lines" : "y-ground"),
        );
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
      this.wire.send({
        do: "set-head",
        id: newName("h"),
        at: p,
        nozzle: $("head-nozzle").value,
        group: newName("g"),
        valve: $("head-valve").value || null,
      });
    }

    act_place(p) {
      this.newThing(newName("p"), { is: "place", kind: $("place-kind").value, at: p });
    }

    act_plant(p, hold) {
      const start = this.draft?.points[0] ?? hold.p;
      this.draft = null;
      const canopy = this.units === "us" ? 4 * 0.3048 : 1.2;
      const count = Math.floor(distance(start, p) / canopy) + 1;
      if (hold.moved && count > 1)
        this.newThing(newName("l"), { is: "plant", canopy: `${canopy} m`, at: start, to: p, count });
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
        this.say(
          `${showLength(distance(a, p), this.units)}, ${Math.round(direction(a, p))}° · ${showLength(Math.abs(p[0] - a[0]), this.units)} across, ${showLength(Math.abs(p[1] - a[1]), this.units)} up`,
          "",
          true,
        );
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
      const response = await fetch(`/jobs/${this.job}/ground/picture/set`, {
        method: "POST",
        body: new URLSearchParams({ base: this.wire.seen, ...form }),
      }).catch(() => null);
      if (!response?.ok)
        this.say(
          response
            ? ((await response.json().catch(() => ({}))).message ?? "That can't be done.")
            : "No connection: try again in a moment.",
          "stop",
        );
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
      this.pair(p, (a, b) =>
        this.openEntry(
          "Length between them",
          null,
          "",
          (text) => void this.picture({ ax: a[0], ay: a[1], bx: b[0], by: b[1], apart: text }),
        ),
      );
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
            const t = Math.max(
              0,
              Math.min(
                1,
                ((p[0] - a[0]) * (b[0] - a[0]) + (p[1] - a[1]) * (b[1] - a[1])) / (distance(a, b) ** 2 || 1),
              ),
            );
            const foot = [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
            const d = a[2] ? distance(p, foot) / 2 : distance(p, foot);
            if (!best || d < best.d) best = { d, r, i, at: a[2] ? p : foot };
          }
        });
        if (best && best.d < this.reach() * 2)
          this.wire.send({
            do: "insert-corner",
            id: element.dataset.id,
            ring: best.r,
            edge: best.i,
            at: best.at,
          });
      }
    }
  };
