// The water on the ground: its map under the heads and its figures beside the board. Both come from
// the server, also while a head is dragged: the newest place is asked for as soon as the answer to
// the one before is here.

import { parsed } from "./changes.js";
import { replaceKeeping } from "./sheet.js";

const $ = (id) => document.getElementById(id);

export class Water {
  /** @param asked what was shown on the page before this one, or null */
  constructor(board, asked) {
    Object.assign(this, { board, asked, place: $("water") });
    this.address = `/jobs/${board.job}/ground/coverage`;
    this.place.addEventListener("change", () => this.windChanged(), { signal: board.off.signal });
    this.ask();
  }

  /** Shows the water on an area, or on all. */
  show(area = "") {
    const wind = Number($("water-speed")?.value ?? 0);
    const from = $("water-from")?.value ?? "";
    this.asked = { wind, from, ...this.asked, area };
    this.was = {};
    return this.ask();
  }

  hide() {
    this.asked = null;
    $("y-water").replaceChildren();
    this.place.replaceChildren();
    this.board.svg.classList.remove("watered");
  }

  async ask() {
    if (!this.asked) return;
    const { area, wind, from } = this.asked;
    const asked = (this.latest = {});
    const query = new URLSearchParams({ area, wind, from });
    const response = await fetch(`${this.address}?${query}`).catch(() => null);
    const late = asked !== this.latest || !this.asked || this.board.off.signal.aborted;
    if (response?.ok && !late) this.take(await response.json(), false);
  }

  /** What a gesture would do, while the hand still moves. */
  async attempt(gesture) {
    this.next = gesture;
    if (!this.asked || this.busy) return;
    this.busy = true;
    while (this.next && this.asked) {
      const body = JSON.stringify({ asked: this.asked, gesture: this.next });
      this.next = null;
      const headers = { "content-type": "application/json" };
      const response = await fetch(this.address, { method: "POST", headers, body }).catch(() => null);
      // Let go meanwhile: what was saved is shown instead.
      if (response?.ok && this.board.hold && !this.board.off.signal.aborted)
        this.take(await response.json(), true);
    }
    this.busy = false;
  }

  take({ map, panel }, tried) {
    const { place, board } = this;
    $("y-water").replaceChildren(...parsed(map));
    board.svg.classList.add("watered");
    const figures = () => [...place.querySelectorAll("[data-figure]")];
    // What it was before the hand began, or before the last edit.
    if (!this.tried) this.was = Object.fromEntries(figures().map((e) => [e.dataset.figure, e.textContent]));
    this.tried = tried;
    replaceKeeping(place, panel);
    window.htmx?.process(place);
    for (const { dataset, textContent } of figures()) {
      const was = this.was?.[dataset.figure];
      if (was && was !== textContent)
        place.querySelector(`[data-was="${dataset.figure}"]`).textContent = `was ${was}`;
    }
  }

  windChanged() {
    if (!this.asked) return;
    Object.assign(this.asked, { wind: Number($("water-speed").value), from: $("water-from").value });
    this.ask();
  }
}
