// Whether what was typed and drawn is stored: one small machine for every edit of every page.
//
//   saving    sent, no answer yet
//   saved     stored
//   not saved refused, by whom and why; it stands at its field, and can be sent again
//   offline   nobody answers: kept in order, also over a reload, and sent once, by the key that each edit carries
//
// An edit of a form lies in this browser's storage from the moment it is sent until it is answered; what a page finds
// there when it opens was cut off, and is sent again.

const RETRY = 1500;
/** Longer than the server gives itself. */
const PATIENCE = 25000;
/** Posts that ask something and change nothing, or that can't be sent twice. */
const QUESTIONS = /\/(try|night|run|stop|preview|look|share|coverage)$/;

const $ = (id) => document.getElementById(id);
const job = location.pathname.match(/^\/jobs\/(\d+)\//)?.[1];
const prefix = `fenlo-form-${job}-`;

/** What is not stored yet, by name: {state, label, why, again, field}. */
const open = new Map();

export const saving = {
  begin: (name, label) => set(name, { state: "saving", label }),
  done: (name) => set(name, null),
  refused: (name, label, why, more = {}) => set(name, { state: "refused", label, why, ...more }),
  waits: (name, label) => set(name, { state: "offline", label }),
};

const set = (name, entry) => {
  if (entry) open.set(name, entry);
  else open.delete(name);
  show();
};

const show = () => {
  const place = $("saving");
  if (!place) return;
  const of = (state) => [...open.values()].filter((e) => e.state === state);
  const [refused, offline, waits] = [of("refused"), of("offline"), of("saving")];
  const worst = refused.length ? "refused" : offline.length ? "offline" : waits.length ? "saving" : "saved";
  place.dataset.state = worst;
  place.replaceChildren();
  if (worst === "saving") place.textContent = "saving…";
  if (worst === "saved") place.textContent = Number($("base")?.value ?? 0) > 0 ? "saved" : "";
  if (worst === "offline") {
    const n = offline.length;
    place.textContent = `no connection: ${n} change${n > 1 ? "s" : ""} not yet saved`;
  }
  if (worst === "refused") place.append(...blame(refused));
};

/** Which are not saved and why, the first of them by name. */
const blame = (all) => {
  const [first] = all;
  const text = document.createElement("button");
  text.type = "button";
  text.textContent = `not saved: ${first.label}${all.length > 1 ? ` and ${all.length - 1} more` : ""}`;
  text.title = first.why;
  text.addEventListener("click", () => first.field?.isConnected && first.field.focus());
  const out = [text];
  if (first.again) {
    const again = document.createElement("button");
    again.type = "button";
    again.textContent = "send again";
    again.addEventListener("click", first.again);
    out.push(again);
  }
  return out;
};

/* Forms. */

const isEdit = (path) =>
  Boolean(job) && path.startsWith(`/jobs/${job}/`) && !QUESTIONS.test(path.split("?")[0]);
/** The field of a form that was typed in last. */
const typedIn = new WeakMap();
const typed = ({ target }) => target.form && typedIn.set(target.form, target);
document.addEventListener("input", typed, true);

const labelOf = (element) => {
  const field = element.matches("form") ? (typedIn.get(element) ?? element.querySelector(":focus")) : element;
  const label = field?.id && document.querySelector(`label[for="${CSS.escape(field.id)}"]`);
  const text = label?.textContent ?? field?.getAttribute("aria-label") ?? field?.textContent ?? "";
  return text.replace(/\s+/g, " ").trim().slice(0, 40) || "a change";
};
const fields = (element) => [...(element.matches("form") ? element.elements : [element])];
const unmark = (element) => fields(element).forEach((f) => f.removeAttribute("data-unsaved"));

/** Edits that htmx has under way: element to {item, sent}. */
const sent = new Map();
const read = (key) => {
  try {
    return JSON.parse(localStorage.getItem(key));
  } catch {
    return null;
  }
};
const kept = () =>
  Object.keys(localStorage)
    .filter((k) => k.startsWith(prefix))
    .sort()
    .map(read)
    .filter(Boolean);
const keep = (item) => {
  try {
    localStorage.setItem(item.at, JSON.stringify(item));
  } catch {
    // Without storage it is kept as long as this page is.
  }
};
const forget = (item) => localStorage.removeItem(item.at);

let count = 0;
const itemOf = (element, path, entries) => {
  const now = `${Date.now()}`.padStart(14, "0");
  const n = `${(count += 1)}`.padStart(5, "0");
  return { at: `${prefix}${now}-${n}`, path, entries, label: labelOf(element) };
};
const signature = (element, path) =>
  path + (element.matches("form") ? `?${new URLSearchParams(new FormData(element))}` : "");

// A second click before the answer to the first is no second wish.
document.addEventListener("htmx:confirm", (event) => {
  const { elt, verb, path } = event.detail;
  if (verb !== "post" || !isEdit(path)) return;
  if (sent.get(elt)?.signature === signature(elt, path)) event.preventDefault();
});

document.addEventListener("htmx:configRequest", (event) => {
  const { elt, verb, path, parameters } = event.detail;
  if (verb !== "post" || !isEdit(path)) return;
  parameters.set?.("key", crypto.randomUUID?.() ?? `k-${Math.random().toString(36).slice(2)}-${Date.now()}`);
  if (elt.getAttribute("hx-encoding")) return;
  const entries = [...parameters.entries()].filter(([, v]) => typeof v === "string");
  const item = itemOf(elt, path, entries);
  keep(item);
  saving.begin(item.at, item.label);
  if (waiting.length) {
    // Others wait before it: it waits behind them.
    event.preventDefault();
    wait(elt, item);
    return;
  }
  sent.set(elt, { item, signature: signature(elt, path) });
  elt.addEventListener("htmx:afterRequest", afterRequest);
});

// Heard at the element itself: a form that was replaced before its answer came no longer reaches the document.
const afterRequest = ({ detail }) => {
  const { elt } = detail.requestConfig;
  const under = sent.get(elt);
  if (!under) return;
  sent.delete(elt);
  elt.removeEventListener("htmx:afterRequest", afterRequest);
  answered(elt, under.item, detail.xhr.status, () => wait(elt, under.item));
};

/** What an answer means for an edit. Without one, or where the server is away, it waits. */
const answered = (element, item, status, away) => {
  if (status === 0 || status >= 500) return away();
  forget(item);
  if (status < 400) {
    saving.done(item.at);
    // An older refusal of the same form is mended by this.
    const older = (entry) => entry.element === element && entry.state === "refused";
    for (const [name, entry] of open) if (older(entry)) open.delete(name);
    if (element.isConnected) unmark(element);
    return show();
  }
  const why = {
    403: "the page is out of date; reload it",
    409: "someone else changed it",
    413: "too large",
    422: "a value is not valid",
    429: "too many requests",
  };
  const again = [403, 405, 408, 413, 421, 429].includes(status) && (() => resend(element, item));
  const field = fields(element).find((f) => f.matches("input, select, textarea") && f.type !== "hidden");
  for (const [name, entry] of open) if (entry.element === element) open.delete(name);
  const reason = why[status] ?? `server error ${status}`;
  saving.refused(item.at, item.label, reason, { again: again || null, field, element });
};

const resend = (element, item) => {
  // On top of what the page shows by now, its own later edits among it.
  const entries = item.entries.map(([k, v]) => [k, k === "base" ? ($("base")?.value ?? v) : v]);
  const again = { ...item, entries, at: itemOf(element, item.path, []).at };
  saving.done(item.at);
  keep(again);
  wait(element, again);
};

/* Edits that wait for the server to come back, in their order. */

let waiting = [];
let retry = 0;

const wait = (element, item) => {
  waiting.push({ element, item });
  saving.waits(item.at, item.label);
  clearTimeout(retry);
  retry = setTimeout(pump, RETRY);
};

/** With the base that it was typed on; our own edits that were stored since are no one else's. */
const post = async (item) => {
  const own = item.own?.length ? [["own", item.own.join(",")]] : [];
  const response = await fetch(item.path, {
    method: "POST",
    headers: { "hx-request": "true", "content-type": "application/x-www-form-urlencoded" },
    body: new URLSearchParams([...item.entries, ...own]),
    signal: AbortSignal.timeout?.(PATIENCE),
  });
  return { status: response.status, html: await response.text() };
};

const pump = async () => {
  clearTimeout(retry);
  while (waiting.length) {
    const { element, item } = waiting[0];
    let answer = { status: 0, html: "" };
    try {
      answer = await post(item);
    } catch {
      // Nobody there.
    }
    if (answer.status === 0 || answer.status >= 500) {
      retry = setTimeout(pump, RETRY);
      return;
    }
    waiting.shift();
    // What follows was typed on top of this one.
    const key = item.entries.find(([k]) => k === "key")?.[1];
    for (const { item: next } of waiting) {
      (next.own ??= []).push(key);
      keep(next);
    }
    answered(element ?? document.body, item, answer.status, () => {});
    if (element?.isConnected) place(element, answer);
    else if (answer.status < 400) stale = true;
  }
  // What was sent from a page that is gone shows on this one.
  if (stale && ![...open.values()].some((e) => e.state === "refused")) location.reload();
};
let stale = false;

/** Shows the answer as htmx would have. */
const place = (element, { status, html }) => {
  const with_ = (name) => element.closest(`[${name}]`)?.getAttribute(name);
  const refused = status >= 400;
  const wanted = refused && status !== 422 ? "#notice" : with_("hx-target");
  const target = (wanted === "this" ? element : wanted && document.querySelector(wanted)) || element;
  const style = status === 422 ? "none" : refused ? "innerHTML" : (with_("hx-swap") ?? "innerHTML");
  window.htmx?.swap(target, html, { swapStyle: style.split(" ")[0], swapDelay: 0, settleDelay: 20 });
};

// Typed, and not sent yet.
document.addEventListener("input", (event) => {
  const form = event.target.closest?.("form[hx-trigger*=change]");
  if (form && job) event.target.toggleAttribute("data-unsaved", true);
});

addEventListener("online", pump);

if (job) {
  // Cut off by a reload, or by a server that went away.
  for (const item of kept()) {
    waiting.push({ element: null, item });
    saving.waits(item.at, item.label);
  }
  if (waiting.length) pump();
  document.addEventListener("htmx:afterSettle", show);
}
