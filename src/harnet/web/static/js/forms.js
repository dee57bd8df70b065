// Small helpers of forms: common sizes, dependent fields, choosing all, notices.
import { say } from "./notice.js";

document.addEventListener("click", (event) => {
  const size = event.target.closest("[data-page-size]");
  if (size) {
    const form = size.form ?? size.closest("form");
    for (const name of ["width", "height", "unit"]) form.elements[name].value = size.dataset[name];
    // Bleed and margin are in the unit before still; the server converts them.
    form.elements.size_unit.value = size.dataset.unit;
    form.elements.unit.dispatchEvent(new Event("change", { bubbles: true }));
  }
  const swap = event.target.closest("[data-swap-sides]");
  if (swap) {
    const { width, height, unit } = swap.form.elements;
    [width.value, height.value] = [height.value, width.value];
    unit.dispatchEvent(new Event("change", { bubbles: true }));
  }
  const every = event.target.closest("[data-choose-every]");
  if (every) {
    for (const box of every.form.querySelectorAll("[name=item]")) box.checked = true;
    every.form.elements.all.value = "yes";
    countChosen(every.form, Number(every.dataset.chooseEvery));
  }
  if (event.target.closest("[data-reload]")) location.reload();
  if (event.target.closest("[data-close-notice]")) {
    document.querySelector("#notice").replaceChildren();
  }
});

// The field that was changed leads; this runs before htmx sends the form.
document.addEventListener(
  "change",
  (event) => {
    const changed = event.target.form?.elements.changed;
    if (changed) changed.value = event.target.matches("[data-leads]") ? event.target.name : "";
  },
  true,
);

document.addEventListener("change", (event) => {
  const field = event.target;
  const ownOnly = field.name === "target" && field.form?.querySelector(".own-only");
  if (ownOnly) ownOnly.hidden = field.value !== "own";
  if (field.matches("[data-submits]")) field.form.submit();
  if (field.dataset.pageChoice) location.assign(field.dataset.pageChoice + field.value);
  if (field.matches("[data-choose-all]")) {
    for (const box of field.form.querySelectorAll("[name=item]")) box.checked = field.checked;
  }
  const form = field.form;
  if (form?.querySelector("[data-chosen-count]")) {
    if (form.elements.all) form.elements.all.value = "";
    countChosen(form);
  }
});

// Typing a figure of one's own chooses it.
document.addEventListener("input", (event) => {
  const own = event.target.closest("label")?.querySelector("input[type=radio]");
  if (own && event.target !== own) own.checked = true;
});

function countChosen(form, every) {
  const boxes = [...form.querySelectorAll("[name=item]")];
  const chosen = boxes.filter((box) => box.checked);
  form.querySelector("[data-chosen-count]").textContent = `${grouped(every ?? chosen.length)} selected`;
  form.querySelector(".batch").hidden = chosen.length === 0;
  for (const box of boxes) box.closest("tr").classList.toggle("chosen", box.checked);
}

// Undo, redo and a new target come back to the address the person is at.
document.addEventListener("htmx:configRequest", (event) => {
  const { path, parameters } = event.detail;
  if (/\/(undo|redo|target)$/.test(path)) {
    parameters.delete("back");
    parameters.set("back", location.pathname + location.search);
    // Only the step that this window shows: another one's is told first.
    const { undo, redo } = document.querySelector(".job-bar")?.dataset ?? {};
    const step = path.endsWith("/undo") ? undo : path.endsWith("/redo") ? redo : "";
    if (Number(step)) parameters.set("edit", step);
  }
});

document.addEventListener("htmx:beforeRequest", (event) => {
  // What a page asks for by itself, such as a list that is being made or figures that follow a form,
  // leaves a notice to be read.
  const trigger = event.target.getAttribute("hx-trigger") ?? "";
  const follows = trigger.includes(" from:") && event.target.hasAttribute("hx-get");
  if (trigger.startsWith("load") || follows) return;
  // What a notice offers must stand until its answer is there.
  if (event.target.closest("#notice")) return;
  document.querySelector("#notice")?.replaceChildren();
});
document.addEventListener("htmx:afterOnLoad", ({ target, detail }) => {
  if (target.closest?.("#notice") && detail.successful) document.querySelector("#notice").replaceChildren();
});
document.addEventListener("htmx:afterSwap", ({ detail }) => {
  if (detail.target?.id === "explain-body") document.querySelector("#explain").showModal();
});
document.addEventListener("htmx:beforeRequest", ({ target }) => {
  if (target.matches("[data-closes]")) target.closest("dialog").close();
});
document.addEventListener("htmx:sendError", () => {
  say("Harnet does not answer. Nothing was changed; check that it is running and try again.");
});

// A page that was open for too long gets a new token, so that doing it once more works.
document.addEventListener("htmx:afterRequest", ({ detail }) => {
  const token = detail.xhr?.getResponseHeader("X-CSRFToken");
  if (token) {
    document.body.setAttribute("hx-headers", JSON.stringify({ "X-CSRFToken": token }));
    for (const field of document.querySelectorAll('input[name="csrf_token"]')) {
      field.value = token;
    }
    for (const holder of document.querySelectorAll("[data-token]")) {
      holder.dataset.token = token;
    }
  }
});

/** A whole number with its thousands apart by a space that does not break. */
function grouped(figure) {
  return String(figure).replace(/\B(?=(\d{3})+$)/g, "\u00a0");
}
