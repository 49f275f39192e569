// Lengths, angles and words typed while something is drawn.

import { parseLength } from "./length.js";
import { direction, toward } from "./shape.js";

const $ = (id) => document.getElementById(id);

export const typing = (Base) =>
  class extends Base {
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
          const ring = this.corners(a, [
            a[0] + w * (to[0] < a[0] ? -1 : 1),
            a[1] + h * (to[1] < a[1] ? -1 : 1),
          ]);
          this.draft = null;
          this.add(ring);
        });
      }
      this.openEntry("Length", "Angle °", first, (text, angle) => {
        const metres = parseLength(text, this.units);
        if (!metres || metres < 0) return "Write a length, e.g. 12'6 or 3.8 m.";
        const from = this.draft.points.at(-1);
        const degrees =
          angle.trim() === ""
            ? direction(from, this.pointer?.p ?? [from[0] + 1, from[1]])
            : Number(angle.replace("°", "").replace(",", "."));
        if (!Number.isFinite(degrees)) return "The angle is a number of degrees: 0 is to the right, 90 up.";
        const p = toward(from, degrees, metres);
        if (this.tool === "area" || this.tool === "dry") this.corner(p);
        else this[`act_${this.tool}`]?.(p, {});
        this.pointer = { p: toward(p, degrees, metres / 4), kind: "free" };
        this.preview();
      });
    }
  };
