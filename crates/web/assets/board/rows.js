// Drip follows the hand: while an area, a stone or a plant is dragged its rows are laid anew by the server, the
// newest place asked for as soon as the answer to the one before is here.

import { parsed } from "./changes.js";

export class Rows {
  constructor(board) {
    Object.assign(this, { board, was: new Map() });
    this.address = `/jobs/${board.job}/ground/drip/try`;
  }

  /** What a gesture would lay, while the hand still moves. */
  async attempt(gesture) {
    this.next = gesture;
    if (this.busy || !this.board.svg.querySelector(".drip")) return;
    this.busy = true;
    while (this.next) {
      const body = JSON.stringify({ gesture: this.next });
      this.next = null;
      const headers = { "content-type": "application/json" };
      const response = await fetch(this.address, { method: "POST", headers, body }).catch(() => null);
      const parts = response?.ok ? await response.json() : [];
      // Let go meanwhile: what was saved is shown instead.
      if (this.board.hold && !this.board.off.signal.aborted) parts.forEach((part) => this.put(part));
    }
    this.busy = false;
  }

  put({ id, svg }) {
    const old = document.getElementById(id);
    if (!old) return;
    if (!this.was.has(id)) this.was.set(id, old);
    old.replaceWith(...parsed(svg));
  }

  /** The hand gave up: rows lie as they lay. */
  restore() {
    for (const [id, old] of this.was) document.getElementById(id)?.replaceWith(old);
    this.forget();
  }

  /** The gesture was sent: what it changes comes with its answer. */
  forget() {
    this.next = null;
    this.was.clear();
  }
}
