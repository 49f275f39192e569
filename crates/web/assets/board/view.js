// What part of the ground is seen. While it is panned or zoomed the drawing is only shifted and
// stretched as a picture, which costs the same however much is drawn; when the hand rests it is
// drawn sharp again.

import { Labels } from "./labels.js";

/** Metres under a pixel from which pipe is told without sizes. */
const SIZELESS = 0.035;
const REST = 140;
const FOOT = 52;

export class View {
  constructor(stage, svg, seen, untold) {
    Object.assign(this, { stage, svg, seen });
    this.labels = new Labels(this, svg, untold);
    this.fit();
    new ResizeObserver(() => this.settle()).observe(stage);
  }

  /** Left and top margin of the drawing beyond the stage, so that panning finds ground there. */
  get margin() {
    return [this.stage.clientWidth * 0.2, this.stage.clientHeight * 0.2];
  }

  fit() {
    const [l, b, r, t] = this.svg.dataset.frame.split(",").map(Number);
    // The foot of the stage is left to the scale bar and the buttons.
    const [w, h] = [this.stage.clientWidth || 800, (this.stage.clientHeight || 500) - FOOT];
    const mpp = Math.max((r - l) / w, (t - b) / h);
    this.live = { mpp, x: (l + r) / 2 - (w / 2) * mpp, y: -(b + t) / 2 - (h / 2) * mpp };
    this.settle();
  }

  /** Ground point under a point of the screen. */
  ground(event) {
    const box = this.stage.getBoundingClientRect();
    return [
      this.live.x + (event.clientX - box.left) * this.live.mpp,
      -(this.live.y + (event.clientY - box.top) * this.live.mpp),
    ];
  }

  /** Pixel of the stage over a ground point. */
  pixel([x, y]) {
    return [(x - this.live.x) / this.live.mpp, (-y - this.live.y) / this.live.mpp];
  }

  pan(dx, dy) {
    this.live = { ...this.live, x: this.live.x - dx * this.live.mpp, y: this.live.y - dy * this.live.mpp };
    this.shift();
  }

  /** Closer or further about a pixel of the stage. */
  zoom(factor, px = this.stage.clientWidth / 2, py = this.stage.clientHeight / 2) {
    const mpp = Math.min(20, Math.max(0.0005, this.live.mpp / factor));
    this.live = {
      mpp,
      x: this.live.x + px * (this.live.mpp - mpp),
      y: this.live.y + py * (this.live.mpp - mpp),
    };
    this.shift();
  }

  shift() {
    const { live, drawn } = this;
    const [mx, my] = this.margin;
    const origin = { x: live.x - mx * live.mpp, y: live.y - my * live.mpp };
    const k = drawn.mpp / live.mpp;
    const [x, y] = [(drawn.x - origin.x) / live.mpp, (drawn.y - origin.y) / live.mpp];
    this.svg.style.transform = `translate(${x}px, ${y}px) scale(${k})`;
    clearTimeout(this.resting);
    this.resting = setTimeout(() => this.settle(), REST);
    this.seen(this);
  }

  /** Ground for paper: drawn as it is, with nothing beyond its edges. */
  print(x, y, width, height) {
    clearTimeout(this.resting);
    this.drawn = { mpp: this.live.mpp, x, y };
    this.svg.style.transform = "";
    this.svg.setAttribute("viewBox", `${x} ${y} ${width} ${height}`);
    this.svg.style.setProperty("--mpp", this.live.mpp);
    this.labels.now();
  }

  settle() {
    const [mx, my] = this.margin;
    const { mpp } = this.live;
    const [w, h] = [this.stage.clientWidth + 2 * mx, this.stage.clientHeight + 2 * my];
    this.drawn = { mpp, x: this.live.x - mx * mpp, y: this.live.y - my * mpp };
    this.svg.style.transform = "";
    this.svg.setAttribute("viewBox", `${this.drawn.x} ${this.drawn.y} ${w * mpp} ${h * mpp}`);
    this.svg.style.setProperty("--mpp", mpp);
    // From so far off the sizes of single pipes would be a thicket.
    this.svg.classList.toggle("sizeless", mpp > SIZELESS);
    this.seen(this);
    this.labels.soon();
  }
}
