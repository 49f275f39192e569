// What the board says: at its top, or beside the place on the ground that it is about.

const $ = (id) => document.getElementById(id);
const REST = { stop: 12000, other: 5000 };

export class Says {
  constructor(board) {
    Object.assign(this, { board, place: $("board-says"), blamed: null });
  }

  /** It goes after a while, unless it is to stay. */
  say(text, kind = "", stay = false) {
    this.place.className = `board-says ${kind}`;
    this.place.textContent = text;
    this.blamed = null;
    this.stand();
    clearTimeout(this.hush);
    if (text && !stay) this.hush = setTimeout(() => this.say(""), REST[kind] ?? REST.other);
  }

  /** A refusal beside the place that is to blame, or at the top where there is none in view. */
  sayAt(text, place) {
    const { view, stage } = this.board;
    const [x, y] = place ? view.pixel(place) : [-1, -1];
    const inView = x >= 0 && y >= 0 && x <= stage.clientWidth && y <= stage.clientHeight;
    this.say(text, "stop");
    this.blamed = inView ? place : null;
    this.stand();
  }

  /** The refusal stays at its place while the ground is panned. */
  stand() {
    const { place, blamed } = this;
    $("board-blame").toggleAttribute("hidden", !blamed);
    place.classList.toggle("placed", Boolean(blamed));
    [place.style.left, place.style.top] = ["", ""];
    if (!blamed) return;
    const { view, stage } = this.board;
    const [x, y] = view.pixel(blamed);
    const [w, h] = [stage.clientWidth, stage.clientHeight];
    [$("board-blame").style.left, $("board-blame").style.top] = [`${x}px`, `${y}px`];
    const left = Math.min(Math.max(8, x - place.offsetWidth / 2), Math.max(8, w - place.offsetWidth - 8));
    const below = y + 22 + place.offsetHeight < h;
    const top = below ? y + 20 : y - 20 - place.offsetHeight;
    [place.style.left, place.style.top] = [`${left}px`, `${top}px`];
  }

  connection(away, count) {
    const wait = count > 1 ? "s wait" : " waits";
    if (!away) return this.say("Connected again. Everything is saved.", "ok");
    const what = count
      ? `${count} change${wait} to be saved when the connection is back.`
      : "Keep drawing. Changes are saved when the connection is back.";
    this.say(`No connection. ${what}`, "watch", true);
  }
}
