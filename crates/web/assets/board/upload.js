// A drawing on its way up shows how far it is.

const $ = (id) => document.getElementById(id);

const send = (form) => {
  const bar = form.querySelector("progress");
  const sending = new XMLHttpRequest();
  bar.hidden = false;
  bar.value = 0;
  sending.upload.addEventListener("progress", (e) => e.lengthComputable && (bar.value = e.loaded / e.total));
  // Sent; now it is read, which takes a second for the largest.
  sending.upload.addEventListener("load", () => bar.removeAttribute("value"));
  sending.addEventListener("load", () => {
    const went = sending.responseURL && !sending.responseURL.endsWith("/ground/import");
    if (sending.status < 400 && went) return location.assign(sending.responseURL);
    bar.hidden = true;
    const notice = $("notice");
    notice.innerHTML = sending.responseText.includes("<p>") ? sending.responseText : "";
    if (!notice.innerHTML) notice.textContent = "This file cannot be imported.";
  });
  sending.addEventListener("error", () => {
    bar.hidden = true;
    $("notice").textContent = "No connection. The file was not sent.";
  });
  sending.open("POST", form.action);
  sending.setRequestHeader("hx-request", "true");
  sending.send(new FormData(form));
};

document.addEventListener("submit", (event) => {
  const form = event.target.closest("form.import");
  if (!form) return;
  event.preventDefault();
  send(form);
});
