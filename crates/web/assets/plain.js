// Forms that lead to a page of their own (a new job, one price, a copy): what is typed is never lost to a server that
// is away. The form is sent once the server says that it is ready; until then it waits here, also over a reload. What
// was sent and met with no answer of ours is offered again, by the key or the number that makes it once.

const AT = "fenlo-plain";
const RETRY = 1500;
const PATIENCE = 5000;

const read = () => {
  try {
    return JSON.parse(sessionStorage.getItem(AT));
  } catch {
    return null;
  }
};
const keep = (item) => {
  try {
    sessionStorage.setItem(AT, JSON.stringify(item));
  } catch {
    // Without storage it is kept as long as this page is.
  }
};
const forget = () => sessionStorage.removeItem(AT);

const isPlain = (form) =>
  form?.method === "post" &&
  !form.hasAttribute("hx-post") &&
  form.enctype === "application/x-www-form-urlencoded";
const pathOf = (form) => new URL(form.action).pathname;

const isReady = async () => {
  try {
    const answer = await fetch("/ready", { cache: "no-store", signal: AbortSignal.timeout(PATIENCE) });
    return answer.ok;
  } catch {
    return false;
  }
};

/** Says beneath a form what became of it, with a button where there is something to do. */
const say = (form, text, button) => {
  let place = form.querySelector(".form-says");
  if (!place) {
    place = document.createElement("p");
    place.className = "form-says caution";
    place.setAttribute("role", "status");
    form.append(place);
  }
  place.hidden = !text;
  place.replaceChildren(text);
  if (button) place.append(" ", button);
};

const button = (text, act) => {
  const out = document.createElement("button");
  out.type = "button";
  out.className = "btn-line";
  out.textContent = text;
  out.addEventListener("click", act);
  return out;
};

const mark = (form, on) => {
  for (const field of form.elements) {
    if (field.type !== "hidden" && field.name) field.toggleAttribute("data-unsaved", on);
  }
};

let waiting = null;

const sendOn = (form) => {
  keep({ path: pathOf(form), entries: [...new FormData(form)], sent: true });
  say(form, "");
  mark(form, false);
  form.submit();
};

const leaveOff = (form) => {
  clearTimeout(waiting?.timer);
  waiting = null;
  forget();
  say(form, "");
  mark(form, false);
};

/** Sends a form as soon as the server is ready, and says so meanwhile. */
const send = async (form) => {
  const turn = { form, timer: 0 };
  waiting = turn;
  const ready = await isReady();
  if (waiting !== turn) return;
  if (ready) {
    waiting = null;
    sendOn(form);
    return;
  }
  keep({ path: pathOf(form), entries: [...new FormData(form)], sent: false });
  mark(form, true);
  const text = "Not saved: no connection. It will be sent when the connection is back.";
  say(form, text, button("Discard", () => leaveOff(form)));
  turn.timer = setTimeout(() => waiting === turn && send(form), RETRY);
};

document.addEventListener("submit", (event) => {
  const form = event.target;
  if (!isPlain(form) || event.defaultPrevented) return;
  event.preventDefault();
  // Sent once, however often it is pressed.
  if (waiting?.form === form && !waiting.timer) return;
  clearTimeout(waiting?.timer);
  pressed(form, event.submitter);
  send(form);
});

/** Sent by us, a form no longer says which of its buttons was pressed: it is told. */
const pressed = (form, by) => {
  form.querySelector("input.pressed")?.remove();
  if (!by?.name) return;
  const field = document.createElement("input");
  field.type = "hidden";
  field.className = "pressed";
  field.name = by.name;
  field.value = by.value;
  form.append(field);
};

const fill = (form, entries) => {
  const given = new Map(entries);
  for (const field of form.elements) {
    if (!given.has(field.name)) continue;
    if (field.type === "radio" || field.type === "checkbox") field.checked = field.value === given.get(field.name);
    else field.value = given.get(field.name);
  }
};

/** What another page left: it waits on, it was refused, or nobody knows what became of it. */
const takeUp = () => {
  const item = read();
  if (!item) return;
  const kind = performance.getEntriesByType("navigation")[0]?.type;
  const message = document.querySelector("#page > .message");
  if (message && item.sent && kind === "navigate") {
    const why = [...message.querySelectorAll("p")].map((p) => p.textContent).find((t) => t.trim());
    keep({ ...item, why: why ?? "Not possible." });
    message.append(button("Back to the form", () => history.back()));
    return;
  }
  const form = [...document.forms].filter(isPlain).find((f) => pathOf(f) === item.path && isLike(f, item.entries));
  if (item.sent && (!form || kind === "navigate")) {
    forget();
    return;
  }
  if (!form) return;
  fill(form, item.entries);
  if (!item.sent) send(form);
  else if (item.why) {
    forget();
    say(form, `Not saved. ${item.why}`);
  } else {
    const again = button("Send again", () => form.requestSubmit());
    say(form, "Unclear whether this was saved. It is safe to send it again.", again);
  }
};

/** Of several forms that lead to one address, what stands hidden in them tells which it was. */
const isLike = (form, entries) => {
  const given = new Map(entries);
  const fixed = [...form.elements].filter((f) => f.type === "hidden" && f.name && f.name !== "key");
  return fixed.every((f) => f.className === "pressed" || given.get(f.name) === f.value);
};

takeUp();
addEventListener("pageshow", ({ persisted }) => persisted && takeUp());
