// Gestures to the server in their order; changed parts of the drawing back. While the server can't
// be reached gestures wait, also over a reload of the page; a key on each makes sure that it is
// done once however often it is sent.

import { saving } from "/assets/saving.js";

const RETRY = 1500;
/** A server that says nothing for so long is as good as away. */
const PATIENCE = 25000;
const DRAWING = "a drawing change";

export class Wire {
  /**
   * @param heard what to do with: changes(answer), done(gesture), refused(gesture, {message, about, place}),
   *   waiting(count), reload()
   */
  constructor(job, seen, heard) {
    Object.assign(this, { job, seen, heard, queue: [], own: [], away: false, closed: false });
    this.store = `fenlo-waiting-${job}`;
    try {
      const kept = JSON.parse(localStorage.getItem(this.store) ?? "{}");
      this.queue = Array.isArray(kept) ? kept : (kept.queue ?? []);
      this.own = kept.own ?? [];
    } catch {
      // What can't be read was not kept.
    }
    this.listen();
    this.pump();
  }

  send(gesture) {
    const key = crypto.randomUUID?.() ?? String(Math.random());
    saving.begin(key, DRAWING);
    // Made on what the board shows by now: what others change before it is sent may clash with it.
    this.queue.push({ key, gesture, made: this.seen, after: this.own.length });
    this.keep();
    this.pump();
  }

  keep() {
    try {
      const { queue, own } = this;
      if (queue.length) localStorage.setItem(this.store, JSON.stringify({ queue, own }));
      else localStorage.removeItem(this.store);
    } catch {
      // Without storage gestures still wait in memory.
    }
  }

  async pump() {
    if (this.busy || this.closed) return;
    this.busy = true;
    while (this.queue.length && !this.closed) {
      const { key, gesture, made, after } = this.queue[0];
      const own = this.own.slice(after);
      const sent = { base: this.seen, made, own, key, gesture };
      const answer = await this.ask(`/jobs/${this.job}/ground/gesture`, sent);
      if (answer === null) {
        this.gone();
        break;
      }
      this.back();
      this.queue.shift();
      // Those that wait were made after this one.
      if (this.queue.length) this.own.push(key);
      else this.own = [];
      this.keep();
      if (answer.ok) {
        saving.done(DRAWING);
        this.take(answer.body);
        saving.done(key);
        this.heard.done(gesture);
      } else {
        saving.done(key);
        saving.refused(DRAWING, DRAWING, answer.body?.message ?? "rejected");
        // What was drawn for it goes; what others did is shown.
        this.heard.refused(gesture, answer.body ?? { message: "This change could not be saved." });
        await this.catchUp();
      }
    }
    this.busy = false;
    if (this.told > this.seen && !this.away) await this.catchUp();
  }

  async ask(url, body) {
    try {
      const response = await fetch(
        url,
        body
          ? {
              method: "POST",
              signal: AbortSignal.timeout?.(PATIENCE),
              headers: { "content-type": "application/json" },
              body: JSON.stringify(body),
            }
          : {},
      );
      // The database away: as good as no connection, and nothing was saved.
      if (response.status >= 500) return null;
      return {
        ok: response.ok,
        body: response.headers.get("content-type")?.includes("json") ? await response.json() : null,
      };
    } catch {
      return null;
    }
  }

  gone() {
    this.away = true;
    for (const { key } of this.queue) saving.waits(key, DRAWING);
    this.heard.waiting(this.queue.length);
    clearTimeout(this.retry);
    this.retry = setTimeout(() => {
      this.pump();
      if (!this.queue.length) this.catchUp();
    }, RETRY);
  }

  back() {
    if (!this.away) return;
    this.away = false;
    this.heard.waiting(0);
  }

  take(changes) {
    if (changes.seq < this.seen) return;
    this.seen = changes.seq;
    if (changes.reload) this.heard.reload();
    else this.heard.changes(changes);
  }

  /** Fetches what changed since what is shown. */
  async catchUp() {
    this.told = 0;
    const answer = await this.ask(`/jobs/${this.job}/ground/changes?since=${this.seen}`);
    if (answer === null) return this.gone();
    this.back();
    if (answer.ok) this.take(answer.body);
  }

  listen() {
    this.events = new EventSource(`/jobs/${this.job}/events`);
    this.events.addEventListener("edit", (event) => {
      const seq = Number(event.data);
      // 0: something may have been missed.
      this.told = seq === 0 ? Infinity : Math.max(this.told ?? 0, seq);
      if (this.told > this.seen && !this.busy) this.catchUp();
    });
    // A new connection may have missed something.
    this.events.addEventListener("hello", () => {
      this.told = Infinity;
      if (!this.busy) this.catchUp();
    });
    this.events.addEventListener("error", () => this.queue.length || this.gone());
  }

  close() {
    this.closed = true;
    clearTimeout(this.retry);
    this.events.close();
  }
}
