// Harnet's own keys: pages, findings, scaling, undo. Typing in a field is left alone.
import { toggleBadges } from "./badges.js";
import { movePages, nudge, togglePan } from "./canvas.js";
import { copyChosen, leaveTool } from "./draw.js";
import { showActions } from "./actions.js";
import { closeLoupe, moveLoupe, toggleLoupe } from "./loupe.js";
import { trueSize } from "./view.js";

const isTyping = (target) => target.closest("input, textarea, select, [contenteditable]");
const press = (selector) => {
  const found = document.querySelector(selector);
  found?.click();
  return Boolean(found);
};

document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && event.target.matches(".figures input")) leaveField(event.target);
  if (isTyping(event.target)) return;
  if (event.altKey) {
    const step = { PageUp: -1, PageDown: 1 }[event.key];
    if (step && document.querySelector(".desk") && movePages(step)) event.preventDefault();
    return;
  }
  const key = event.key;
  if (event.ctrlKey || event.metaKey) {
    const wantsRedo = key.toLowerCase() === "y" || (key.toLowerCase() === "z" && event.shiftKey);
    if (key.toLowerCase() === "c" && !String(getSelection())) copyChosen();
    if (key.toLowerCase() === "d" && press("#duplicate")) event.preventDefault();
    if (wantsRedo ? press("#redo") : key.toLowerCase() === "z" && press("#undo")) {
      event.preventDefault();
    }
    return;
  }
  if (key === "/" && press("#find-anything")) {
    document.querySelector("#find-anything").focus();
    event.preventDefault();
    return;
  }
  if (key === "?") {
    event.preventDefault();
    showActions();
  }
  else if (handled(key, event)) event.preventDefault();
});
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-keys]")) showActions();
});

// Escape gives a number field the value it had and leaves it; the next Escape lets the picture go.
function leaveField(field) {
  field.value = field.defaultValue;
  field.blur();
}

function handled(key, event) {
  if (key === "l") return toggleLoupe();
  if (key === "Escape" && closeLoupe()) return true;
  if (key.startsWith("Arrow") && moveLoupe(key.slice(5), event.shiftKey ? 10 : 1)) return true;
  const desk = document.querySelector(".desk");
  const preflight = document.querySelector(".preflight");
  if (desk) {
    if (key === "," || key === ".") return turnPage(desk, key === "," ? -1 : 1);
    if (key === "r") return press("#scale-reach");
    if (key === "e") return press("#scale-native");
    if (key === "Delete" || key === "Backspace") return press("#take-off");
    if (key === "t") return trueSize();
    if (key === "q") return nextQuality();
    if (key === "n" || key === "p") return goToFinding(desk, key === "n" ? 1 : -1);
    if (key === "b") return toggleBadges();
    if (key === "Escape") return leaveTool() || togglePan(false) || press("#deselect");
    // Enter on a link or a button is theirs.
    if (key === "Enter") return !event.target.closest("a, button, summary") && (chooseFocused(event) || togglePan(true));
    if (key.startsWith("Arrow")) return nudge(key.slice(5), event.shiftKey ? 10 : 1);
  }
  if (key === "," || key === ".") return press(`.page-steps [rel=${key === "," ? "prev" : "next"}]`);
  if (preflight && (key === "n" || key === "p")) return turnFinding(preflight, key === "n" ? 1 : -1);
  return false;
}

// Placeholder, light, exact and round again.
function nextQuality() {
  const choices = [...document.querySelectorAll(".tool-menu [hx-vals*=quality].dropdown-item")];
  const at = choices.findIndex((one) => one.getAttribute("aria-current") === "true");
  choices[(at + 1) % choices.length]?.click();
  return choices.length > 0;
}

// The page of the next finding, with what it is about selected.
function goToFinding({ dataset }, step) {
  const selected = dataset.items.split(":")[0];
  htmx.ajax("GET", `${dataset.address}/finding?step=${step}&from=${selected}`, { target: "#desk" });
  return true;
}

function turnPage(desk, step) {
  const number = Number(desk.dataset.page) + step;
  if (number < 1 || number > Number(desk.dataset.pages)) return false;
  return press(`.film [data-film="${number}"]`);
}

function turnFinding(view, step) {
  const index = Number(view.dataset.finding) + step;
  if (index < 0 || index >= Number(view.dataset.findings)) return false;
  location.assign(`${view.dataset.address}&finding=${index}`);
  return true;
}

function chooseFocused(event) {
  const item = event.target.closest(".item:not(.selected)");
  if (!item) return false;
  item.dispatchEvent(new CustomEvent("choose-item", { bubbles: true }));
  return true;
}
