// The press loupe: follows the pointer over a page or a picture and shows what prints there. What
// it shows comes from the server; the last place asked for wins.
import { canvas, pointOn, sheetUnder } from "./view.js";

const SETTINGS_KEY = "harnet-loupe";
const TRUE_SIZE_KEY = "harnet-px-per-mm";
const STEP_PT = 2;
let place = null;
let isAsking = false;
let isHeld = false;
let tries = 0;
let waiting = 0;

const panel = () => document.querySelector("#loupe");
const settings = () => document.querySelector("#loupe-settings");
const isOpen = () => panel() && !panel().hidden;

export function toggleLoupe(wanted = !isOpen()) {
  if (!panel()) return false;
  panel().hidden = !wanted;
  document.body.classList.toggle("under-loupe", wanted);
  for (const button of document.querySelectorAll("[data-loupe]")) button.setAttribute("aria-pressed", String(wanted));
  if (!wanted) {
    place = null;
    isHeld = false;
    clearTimeout(waiting);
    document.querySelector("#loupe-mark")?.remove();
    return true;
  }
  restore();
  panel().focus({ preventScroll: true });
  place ??= firstPlace();
  ask();
  return true;
}

export function closeLoupe() {
  return isOpen() ? toggleLoupe(false) : false;
}

// Arrows move the loupe while it is open; false lets the key go on.
export function moveLoupe(direction, steps) {
  if (!isOpen() || !place) return false;
  const [dx, dy] = { Left: [-1, 0], Right: [1, 0], Up: [0, -1], Down: [0, 1] }[direction] ?? [0, 0];
  const step = place.page ? STEP_PT : 0.005;
  place.x += dx * step * steps;
  place.y += dy * step * steps;
  isHeld = true;
  ask();
  return true;
}

// Before the pointer was anywhere: the selected picture, or the middle.
function firstPlace() {
  if (panel().dataset.over !== "page") return { x: 0.5, y: 0.5 };
  const chosen = document.querySelector(".item.picture.selected .frame") ?? document.querySelector(".item.picture .frame");
  const box = (chosen ?? canvas()).getBoundingClientRect();
  return placeUnder({ clientX: (box.left + box.right) / 2, clientY: (box.top + box.bottom) / 2, target: canvas() });
}

function placeUnder(event) {
  if (panel().dataset.over === "page") {
    if (!event.target.closest?.("#canvas")) return null;
    const { page } = sheetUnder(event).dataset;
    const point = pointOn(page, event);
    return { page, x: point.x, y: point.y };
  }
  const surface = event.target.closest?.("[data-loupe-surface]");
  if (!surface) return null;
  if (surface.viewBox) {
    // A drawing of a frame: its view box is the frame.
    const { x, y, width, height } = surface.viewBox.baseVal;
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(surface.getScreenCTM().inverse());
    return { x: (point.x - x) / width, y: (point.y - y) / height };
  }
  const box = surface.getBoundingClientRect();
  return { x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height };
}

function question() {
  const query = new URLSearchParams(new FormData(settings()));
  for (const [name, value] of Object.entries(place)) query.set(name, typeof value === "number" ? value.toFixed(4) : value);
  const perMm = Number(localStorage.getItem(TRUE_SIZE_KEY));
  if (perMm) query.set("screen", (perMm * 25.4).toFixed(2));
  return query.toString();
}

async function ask() {
  if (!isOpen() || !place) return;
  const asked = question();
  panel().dataset.asked = asked;
  if (isAsking) return;
  isAsking = true;
  clearTimeout(waiting);
  try {
    const again = tries ? "&asked=1" : "";
    const reply = await fetch(`${panel().dataset.address}?${asked}${again}`, { headers: { Accept: "application/json" } });
    const answer = await reply.json();
    if (isOpen()) show(reply.ok ? answer : { message: answer.failure });
  } catch {
    show({ message: "Harnet does not answer. Check that it is running." });
  }
  isAsking = false;
  panel().dataset.shown = asked;
  if (isOpen() && panel().dataset.asked !== asked) ask();
}

function show(answer) {
  panel().querySelector(".loupe-name").textContent = answer.message ?? answer.name;
  panel().classList.toggle("is-blank", Boolean(answer.message));
  tries = answer.waits ? tries + 1 : 0;
  if (answer.waits) waiting = setTimeout(ask, 700);
  panel().querySelector("[data-loupe-now]").textContent = answer.now_text ?? "";
  panel().querySelector("[data-loupe-target]").textContent = answer.target_text ?? "";
  const part = panel().querySelector(".loupe-part");
  part.hidden = !(answer.share < 1);
  for (const one of panel().querySelectorAll(".glass img")) one.hidden = Boolean(answer.message);
  if (answer.message) return;
  const [now, target] = [glass("now"), glass("target")];
  now.src = answer.now;
  target.src = answer.at_target;
  // The part of the second drawing that the first one shows.
  part.style.setProperty("--share", answer.share);
  mark(answer.edge_pt);
}

// One of the two drawings; there is no picture before there is something to show.
function glass(which) {
  const known = panel().querySelector(`#loupe-${which}`);
  if (known) return known;
  const room = panel().querySelector(`[data-glass=${which}]`);
  const image = new Image();
  image.id = `loupe-${which}`;
  image.alt = room.dataset.alt;
  return room.appendChild(image);
}

// Where the sample lies on the page.
function mark(edge) {
  document.querySelector("#loupe-mark")?.remove();
  if (!place?.page) return;
  const sheet = document.querySelector(`.sheet[data-page="${place.page}"]`);
  if (!sheet) return;
  const rect = document.createElementNS("http://www.w3.org/2000/svg", "rect");
  const given = { id: "loupe-mark", x: place.x - edge / 2, y: place.y - edge / 2, width: edge, height: edge };
  Object.entries(given).forEach(([name, value]) => rect.setAttribute(name, value));
  sheet.append(rect);
}

function restore() {
  const kept = JSON.parse(localStorage.getItem(SETTINGS_KEY) ?? "{}");
  for (const [name, value] of Object.entries(kept)) {
    const field = settings().elements[name];
    if (field) field.value = value;
  }
}

function keep() {
  localStorage.setItem(SETTINGS_KEY, JSON.stringify(Object.fromEntries(new FormData(settings()))));
}

document.addEventListener("pointermove", (event) => {
  if (!isOpen() || isHeld) return;
  stepAside(event);
  const under = placeUnder(event);
  if (!under) return;
  place = under;
  ask();
});
// The panel never lies over what one wants to see.
function stepAside(event) {
  if (panel().dataset.over !== "page" || panel().contains(event.target)) return;
  const width = panel().offsetWidth + 32;
  const isAside = panel().classList.contains("aside");
  if (!isAside && event.clientX > innerWidth - width) panel().classList.add("aside");
  if (isAside && event.clientX < width) panel().classList.remove("aside");
}

// Under the loupe nothing is chosen or moved.
document.addEventListener(
  "pointerdown",
  (event) => {
    if (isOpen() && event.target.closest?.("#canvas")) event.stopPropagation();
  },
  true,
);
// A click holds the loupe where it is; the next one lets it follow again.
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-loupe]")) toggleLoupe();
  else if (event.target.closest("[data-loupe-close]")) toggleLoupe(false);
  else if (isOpen() && placeUnder(event)) {
    isHeld = !isHeld;
    place = placeUnder(event);
    ask();
  }
});
document.addEventListener("input", (event) => {
  if (event.target.form?.id !== "loupe-settings") return;
  if (event.target.name === "distance") settings().elements.view.value = "far";
  keep();
  ask();
});
document.addEventListener("submit", (event) => {
  if (event.target.id === "loupe-settings") event.preventDefault();
});
document.addEventListener("reset", (event) => {
  if (event.target.id !== "loupe-settings") return;
  setTimeout(() => {
    keep();
    ask();
  });
});
document.addEventListener("htmx:afterSwap", () => {
  if (!isOpen()) return;
  for (const button of document.querySelectorAll("[data-loupe]")) button.setAttribute("aria-pressed", "true");
  ask();
});
