// Figures and words typed beside the pointer.

import { parseLength } from "./length.js";
import { direction, toward } from "./shape.js";

const $ = (id) => document.getElementById(id);

export class Entry {
  constructor(board) {
    Object.assign(this, { board, form: $("entry"), then: null });
    const signal = board.off.signal;
    const enter = (event) => {
      event.preventDefault();
      this.enter();
    };
    const leave = (event) => {
      if (event.key !== "Escape") return;
      this.close();
      board.stage.focus();
    };
    this.form.addEventListener("submit", enter, { signal });
    this.form.addEventListener("keydown", leave, { signal });
  }

  /** One field or two; `then` gets what was typed and gives a fault, or nothing where it is done. */
  open(first, second, typed, then) {
    const { form, board } = this;
    this.then = then;
    form.hidden = false;
    form.querySelector("label[for=entry-length]").textContent = first;
    const other = $("entry-angle").parentElement;
    other.hidden = !second;
    if (second) other.querySelector("label").textContent = second;
    $("entry-angle").placeholder = second === "Angle °" ? "as shown" : "";
    $("entry-length").value = typed;
    $("entry-angle").value = "";
    $("entry-error").textContent = "";
    const [x, y] = board.pointer ? board.view.pixel(board.pointer.p) : [200, 200];
    const within = (at, size, own) => `${Math.max(8, Math.min(size - own, at + 16))}px`;
    form.style.left = within(x, board.stage.clientWidth, 270);
    form.style.top = within(y, board.stage.clientHeight, 96);
    $("entry-length").focus();
  }

  close() {
    this.form.hidden = true;
    this.then = null;
  }

  async enter() {
    const { then } = this;
    const wrong = await then?.($("entry-length").value, $("entry-angle").value);
    if (wrong) {
      $("entry-error").textContent = wrong;
      $("entry-length").focus();
      return;
    }
    // What was typed may have asked for more.
    if (this.then === then) this.close();
    this.board.stage.focus();
  }

  /** Where a first corner, a head or a mark lies, from the corner of the sheet that the list counts from. */
  corner(first) {
    const { board } = this;
    this.open("Right, Up", "Up by", first, (right, up) => {
      const at = [right, up].map((text) => (text.trim() === "" ? 0 : parseLength(text, board.units)));
      if (at.includes(null)) return "Enter distances right and up, such as 12'6 and 20', or 3.8 m.";
      board.tool.act?.(board, at, { p: at, moved: false });
      if (board.tool.name === "pick") return;
      board.pointer = { p: [at[0] + 1, at[1]], kind: "free" };
      board.preview();
    });
  }

  /** A length typed while an edge is drawn: in the direction that is pointed at, or at an angle. */
  edge(first) {
    const { board } = this;
    this.open("Length", "Angle °", first, (text, angle) => {
      const metres = parseLength(text, board.units);
      if (!metres || metres < 0) return "Enter a length, such as 12'6 or 3.8 m.";
      const from = board.draft.points.at(-1);
      const degrees =
        angle.trim() === ""
          ? direction(from, board.pointer?.p ?? [from[0] + 1, from[1]])
          : Number(angle.replace("°", "").replace(",", "."));
      if (!Number.isFinite(degrees)) return "Enter degrees: 0 is right, 90 is up.";
      const p = toward(from, degrees, metres);
      board.tool.act(board, p, { p, moved: false });
      board.pointer = { p: toward(p, degrees, metres / 4), kind: "free" };
      board.preview();
    });
  }
}
