// Keys and small comforts. No rule of the job is computed here.

/** What is folded away has a place in the page, but can't be seen. */
const shown = (element) => element.checkVisibility?.() ?? Boolean(element.offsetParent);

/** The field in which something new begins on this page. */
const begin = (event) => {
  const fields = [...document.querySelectorAll("#new-name, #new-static-pressure, #add-part")];
  const field = fields.find(shown) ?? null;
  if (!field) return;
  event.preventDefault();
  field.focus();
};

const typing = (element) => element.closest("input, textarea, select, [contenteditable]");
const press = (id) => document.getElementById(id)?.click();

document.addEventListener("keydown", (event) => {
  const command = event.ctrlKey || event.metaKey;
  // In a field the browser's own undo comes first.
  if (command && event.key.toLowerCase() === "z" && !typing(event.target)) {
    event.preventDefault();
    press(event.shiftKey ? "redo-button" : "undo-button");
    return;
  }
  // Out of a field, so that keys are keys again.
  const leaves = event.key === "Escape" && typing(event.target) && !event.target.closest("dialog, .entry");
  if (leaves) event.target.blur();
  if (command || event.altKey || typing(event.target)) return;
  // While something is drawn a digit is a length or nothing.
  if (/^[0-9]$/.test(event.key) && document.querySelector('#stage[data-tool]:not([data-tool="pick"])')) return;
  if (event.key === "?") help();
  else if (event.key === "q") location.assign("/quick");
  else if (event.key === "j") location.assign("/");
  else if (event.key === "n") begin(event);
  else document.querySelector(`#rail a[data-key="${CSS.escape(event.key)}"]`)?.click();
});

// Help for the step at hand, over the page.
const help = async () => {
  const { at, units } = document.body.dataset;
  const box = document.getElementById("help");
  const asked = new URLSearchParams({ at, units });
  const answer = await fetch(`/help/box?${asked}`).catch(() => null);
  if (!answer?.ok) return notice("Cannot reach Fenlo. Help is available again when the connection is back.");
  const place = document.getElementById("help-in");
  place.innerHTML = await answer.text();
  window.htmx?.process(place);
  if (!box.open) box.showModal();
  document.getElementById("help-q").focus();
};
document.getElementById("help-open")?.addEventListener("click", help);
document.addEventListener("click", (event) => {
  if (!event.target.closest("[data-keys]")) return;
  document.getElementById("help").close();
  document.getElementById("keys").showModal();
});

// A valve picked from a list is shown at once; arrows go through the list first, and Enter shows the one
// chosen.
let byArrows = false;
document.addEventListener("keydown", ({ target, key }) => {
  if (target.id !== "pick-valve") return;
  byArrows = key !== "Enter";
  if (key === "Enter") target.form.requestSubmit();
});
document.addEventListener("pointerdown", () => (byArrows = false));
document.addEventListener("change", (event) => {
  if (event.target.id === "pick-valve" && !byArrows) event.target.form.requestSubmit();
});
document.addEventListener("focusout", ({ target }) => {
  // Left without Enter: the list says again what the page shows.
  if (target.id === "pick-valve" && byArrows) target.form.reset();
});

// The chosen lane is brought into view inside its rack; the page itself stays where it is.
const showChosen = () => {
  const lane = document.querySelector(".lane.chosen");
  const rack = lane?.parentElement;
  if (!rack || rack.scrollHeight <= rack.clientHeight) return;
  const [inner, outer] = [lane.getBoundingClientRect(), rack.getBoundingClientRect()];
  if (inner.top < outer.top || inner.bottom > outer.bottom) rack.scrollTop += inner.top - outer.top - 8;
};
showChosen();
document.addEventListener("htmx:afterSettle", showChosen);

// What the server refuses is said plainly. Whether an edit is stored is said beside the job's name (saving.js).
const notice = (text) => {
  const place = document.getElementById("notice");
  const line = document.createElement("p");
  line.textContent = text;
  place.replaceChildren(line);
};
document.addEventListener("htmx:beforeRequest", () => document.getElementById("notice")?.replaceChildren());
document.addEventListener("htmx:sendError", () =>
  notice("Cannot reach Fenlo. What you typed is kept here and saved when the connection is back."),
);
document.addEventListener("htmx:timeout", () => notice("Fenlo did not answer in time. Trying again."));

// An edit says which state its page showed when it is sent: the newest that an answer brought, so that it is made on top
// of the edits before it and not against them.
document.addEventListener("htmx:configRequest", (event) => {
  const base = document.getElementById("base");
  if (base && event.detail.verb === "post") event.detail.parameters.set?.("base", base.value);
});

// A form that is sent twice is done once, by its key; a form that says something else is another.
const freshKey = (form) => {
  const key = form?.method === "post" && form.elements?.key;
  if (key) key.value = crypto.randomUUID?.() ?? `k-${Math.random().toString(36).slice(2)}-${Date.now()}`;
};
document.addEventListener("input", (event) => freshKey(event.target.form));
document.addEventListener("submit", (event) => event.target.elements?.key?.value === "" && freshKey(event.target));

// A file that is picked is read into the text field beside it: it is looked at before it is sent.
document.addEventListener("change", async (event) => {
  const into = event.target.dataset?.into;
  const file = into && event.target.files?.[0];
  if (!file) return;
  const field = document.getElementById(into);
  const bytes = await file.slice(0, 2_000_000).arrayBuffer();
  // Old sheets are written in Windows-1252: what is no UTF-8 is that.
  try {
    field.value = new TextDecoder("utf-8", { fatal: true }).decode(bytes);
  } catch {
    field.value = new TextDecoder("windows-1252").decode(bytes);
  }
});

// What was folded out stays so when the page is shown anew after an edit, and whoever works by keys goes on at what is
// new, or where they were.
let open = [];
let before = null;
document.addEventListener("htmx:beforeRequest", () => {
  // Only for somebody who was somewhere: a page that asks by itself takes no focus.
  before = null;
  if (!document.activeElement || document.activeElement === document.body) return;
  const form = document.activeElement.closest("form");
  before = {
    ids: new Set(ids().map((e) => e.id)),
    id: document.activeElement?.id,
    form: form?.getAttribute("hx-post"),
    // Lists have the same form on every line.
    nth: form ? alike(form.getAttribute("hx-post")).indexOf(form) : -1,
  };
});
const ids = () => [...document.querySelectorAll("#page :is(input, select, textarea, button, summary, a)[id]")];
const alike = (post) => [...document.querySelectorAll(`#page form[hx-post="${CSS.escape(post ?? "")}"]`)];
document.addEventListener("htmx:beforeSwap", (event) => {
  const target = event.detail.target;
  if (!target?.closest?.("#page")) return;
  open = [...target.querySelectorAll("details[data-keep][open]")].map((d) => d.dataset.keep);
});
document.addEventListener("htmx:afterSwap", () => {
  for (const key of open) {
    document.querySelector(`#page details[data-keep="${CSS.escape(key)}"]`)?.setAttribute("open", "");
  }
  open = [];
});

// What has just come and wants to be read gets the focus; a panel that is left goes.
document.addEventListener("htmx:afterSettle", (event) => {
  const wanted = event.target.querySelector?.("[data-focus]");
  if (wanted) wanted.focus();
});
document.addEventListener("htmx:afterRequest", () => setTimeout(goOn, 60));
const goOn = () => {
  if (!before || document.activeElement !== document.body || document.getElementById("stage")) return;
  const { form, id, nth } = before;
  const fresh = ids().find((e) => !before.ids.has(e.id) && e.type !== "hidden" && shown(e));
  const forms = form ? alike(form) : [];
  const again = (forms[nth] ?? forms[0])?.querySelector(":is(button, input:not([type=hidden]))");
  (fresh ?? (id ? document.getElementById(id) : null) ?? again)?.focus();
  before = null;
};
document.addEventListener("click", (event) => {
  const close = event.target.closest("[data-close]")?.dataset.close;
  if (!close) return;
  document.getElementById(close).replaceChildren();
  document.querySelector(`[aria-controls="${CSS.escape(close)}"]`)?.focus();
});
