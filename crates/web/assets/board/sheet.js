// What stands beside and below the board: the sheet of what is picked, the list of everything.

const $ = (id) => document.getElementById(id);

export class Sheet {
  constructor(board) {
    Object.assign(this, { board, place: $("sheet"), page: 0 });
    const signal = board.off.signal;
    $("board-list").addEventListener("toggle", () => this.list(), { signal });
    document.body.addEventListener(
      "htmx:afterRequest",
      ({ detail }) => {
        if (!detail.successful || !this.place.contains(detail.elt)) return;
        this.saved(detail.elt.closest("form") ?? detail.elt);
      },
      { signal },
    );
  }

  async show() {
    const { board, place } = this;
    const ids = [...board.picked].join(",");
    const address = `/jobs/${board.job}/ground/sheet?ids=${encodeURIComponent(ids)}`;
    const response = await fetch(address).catch(() => null);
    if (!response?.ok) return;
    const html = await response.text();
    // Something else was picked meanwhile, or the page was left for a newer one.
    if (ids !== [...board.picked].join(",") || board.off.signal.aborted) return;
    // Nothing new to see, or somebody is typing what nobody else has: what is typed stays.
    if (html === this.shown) return;
    const same = ids === this.shownFor;
    [this.shown, this.shownFor] = [html, ids];
    const within = place.contains(document.activeElement);
    const focus = within ? document.activeElement.id : null;
    const inputs = same ? [...place.querySelectorAll("input[id]")] : [];
    const typed = inputs
      .filter((i) => i.type !== "range" && i.value !== i.defaultValue)
      .map((i) => [i.id, i.value]);
    const scroll = place.scrollTop;
    replaceKeeping(place, html);
    window.htmx?.process(place);
    if (same) place.scrollTop = scroll;
    for (const [id, value] of typed) if ($(id)) $(id).value = value;
    if (!within) return;
    // What was pressed may be gone: on at the next step, else at the board.
    const next = (focus ? $(focus) : null) ?? place.querySelector(".next-step .btn-earth") ?? board.stage;
    next.focus({ preventScroll: true });
  }

  /** A form of the sheet was saved: its fields are no longer somebody's own. */
  saved(form) {
    if (form.getAttribute("hx-trigger") === "change")
      form.querySelectorAll("input").forEach((i) => (i.defaultValue = i.value));
    else form.reset?.();
  }

  async list(page = this.page) {
    if (!$("board-list").open) return;
    this.page = page;
    const response = await fetch(`/jobs/${this.board.job}/ground/list?page=${page}`).catch(() => null);
    if (response?.ok && !this.board.off.signal.aborted) $("board-rows").innerHTML = await response.text();
  }
}

/** New content in a place; what somebody unfolded stays unfolded. */
export const replaceKeeping = (place, html) => {
  const folds = () => [...place.querySelectorAll("details[data-keep]")];
  const open = new Map(folds().map((d) => [d.dataset.keep, d.open]));
  place.innerHTML = html;
  for (const d of folds()) if (open.has(d.dataset.keep)) d.open = open.get(d.dataset.keep);
};
