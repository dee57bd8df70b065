// What part of the pages is seen: zoom and pan of the canvas. Signs, badges and handles keep their
// size on the screen. The view survives the swap after an edit, and ends with the page.
const MOST_ZOOM = 40;
const NEUTRAL_KEY = "harnet-neutral";
const TRUE_SIZE_KEY = "harnet-px-per-mm";
let box = null;
let shownPage = null;

export const desk = () => document.querySelector(".desk");
export const canvas = () => document.querySelector("#canvas");
const fit = () => canvas().dataset.fit.split(" ").map(Number);

// Points that a screen pixel takes now.
export function pxPt() {
  const room = canvas().getBoundingClientRect();
  const [, , width, height] = box ?? fit();
  return Math.max(width / room.width, height / room.height);
}

export function pointOn(page, event) {
  const sheet = document.querySelector(`.sheet[data-page="${page}"]`) ?? canvas();
  const point = new DOMPoint(event.clientX, event.clientY);
  return point.matrixTransform(sheet.getScreenCTM().inverse());
}

export function sheetUnder(event) {
  const sheets = [...document.querySelectorAll(".sheet")];
  const inside = sheets.find((sheet) => {
    const edge = sheet.querySelector(".trim-edge").getBoundingClientRect();
    return event.clientX >= edge.left && event.clientX <= edge.right;
  });
  return inside ?? sheets[0];
}

export function applyView() {
  if (!canvas()) return;
  const page = `${desk().dataset.job}/${canvas().dataset.fit}`;
  if (page !== shownPage) {
    shownPage = page;
    box = null;
  }
  canvas().setAttribute("viewBox", (box ?? fit()).join(" "));
  const scale = pxPt();
  desk().dataset.nudge = scale;
  for (const sign of canvas().querySelectorAll("[transform*=scale]")) {
    const old = sign.getAttribute("transform");
    const fresh = old.replace(/scale\([^)]*\)/, `scale(${scale})`);
    if (fresh !== old) sign.setAttribute("transform", fresh);
  }
  const label = document.querySelector("#zoom-label");
  if (label) label.textContent = box ? `${Math.round(percentNow())} %` : `Fit page · ${Math.round(percentNow())} %`;
  document.dispatchEvent(new Event("view-changed"));
}

// 100 % is a CSS pixel for each 1/96 inch of the page.
const percentNow = () => (0.75 / pxPt()) * 100;

function seeAround(x, y, scale) {
  const room = canvas().getBoundingClientRect();
  const least = Math.max(fit()[2] / room.width, fit()[3] / room.height);
  const held = Math.min(Math.max(scale, least / MOST_ZOOM), least * 3);
  const [width, height] = [room.width * held, room.height * held];
  box = [x - width / 2, y - height / 2, width, height];
  applyView();
}

function middle() {
  const [x, y, width, height] = box ?? fit();
  return [x + width / 2, y + height / 2];
}

export function zoomBy(factor, event) {
  const before = event ? pointOn("canvas", event) : null;
  const scale = pxPt() / factor;
  seeAround(...middle(), scale);
  if (!before) return;
  const after = pointOn("canvas", event);
  box[0] += before.x - after.x;
  box[1] += before.y - after.y;
  applyView();
}

export function panBy(dx, dy) {
  const scale = pxPt();
  box ??= fit();
  box = [box[0] + dx * scale, box[1] + dy * scale, box[2], box[3]];
  applyView();
}

export function see(what) {
  const room = canvas().getBoundingClientRect();
  if (what === "fit") {
    box = null;
    return applyView();
  }
  if (what === "width") return seeAround(...middle(), (fit()[2] / room.width) * 1.0);
  if (what === "selection") {
    const chosen = [...document.querySelectorAll(".item.selected .outline")];
    if (!chosen.length) return see("fit");
    const edges = chosen.map((one) => one.getBoundingClientRect());
    const left = Math.min(...edges.map((one) => one.left));
    const right = Math.max(...edges.map((one) => one.right));
    const top = Math.min(...edges.map((one) => one.top));
    const bottom = Math.max(...edges.map((one) => one.bottom));
    const at = pointOn("canvas", { clientX: (left + right) / 2, clientY: (top + bottom) / 2 });
    const part = Math.max((right - left) / room.width, (bottom - top) / room.height) * 1.15;
    return seeAround(at.x, at.y, pxPt() * part);
  }
  return seeAround(...middle(), 0.75 / (Number(what) / 100));
}

// True size needs to know the screen: a bank card (ISO/IEC 7810 ID-1) is 85.60 mm wide.
export function trueSize() {
  const perMm = Number(localStorage.getItem(TRUE_SIZE_KEY));
  if (!perMm) return calibrate();
  seeAround(...middle(), 72 / 25.4 / perMm);
  return true;
}

function calibrate() {
  const dialog = document.createElement("dialog");
  dialog.className = "calibrate";
  dialog.innerHTML = `<h2>How large is this screen?</h2>
    <p>Hold a bank card against the screen and pull the slider until the outline is as wide as the card.</p>
    <div class="bank-card" aria-hidden="true"></div>
    <input type="range" min="200" max="900" value="${Math.round((Number(localStorage.getItem(TRUE_SIZE_KEY)) || 3.785) * 85.6)}" aria-label="Width of the outline in pixels">
    <p><button class="btn btn-primary">The card fits</button> <button class="btn btn-outline-secondary" data-close>Not now</button></p>`;
  const slider = dialog.querySelector("input");
  const card = dialog.querySelector(".bank-card");
  const size = () => {
    card.style.width = `${slider.value}px`;
    card.style.height = `${(slider.value * 53.98) / 85.6}px`;
  };
  size();
  slider.addEventListener("input", size);
  dialog.querySelector("[data-close]").addEventListener("click", () => dialog.close());
  dialog.querySelector(".btn-primary").addEventListener("click", () => {
    localStorage.setItem(TRUE_SIZE_KEY, slider.value / 85.6);
    dialog.close();
    trueSize();
  });
  dialog.addEventListener("close", () => dialog.remove());
  document.body.append(dialog);
  dialog.showModal();
  return true;
}

document.addEventListener("click", (event) => {
  const view = event.target.closest("[data-view]")?.dataset.view;
  if (view === "calibrate") calibrate();
  else if (view === "rulers") document.dispatchEvent(new Event("rulers"));
  else if (view === "neutral") setNeutral(!document.body.classList.contains("neutral"));
  else if (view) see(view);
  if (event.target.closest("#true-size")) trueSize();
});
document.addEventListener(
  "wheel",
  (event) => {
    if (!event.target.closest?.("#canvas")) return;
    event.preventDefault();
    // A pinch arrives as a wheel with the control key.
    if (event.ctrlKey || event.metaKey) zoomBy(Math.exp(-event.deltaY / 240), event);
    else panBy(event.shiftKey ? event.deltaY : event.deltaX, event.shiftKey ? 0 : event.deltaY);
  },
  { passive: false },
);
// Colours look different beside a tint; a neutral grey lies around the page where somebody wishes.
function setNeutral(isOn) {
  document.body.classList.toggle("neutral", isOn);
  localStorage.setItem(NEUTRAL_KEY, isOn ? "yes" : "no");
}
setNeutral(localStorage.getItem(NEUTRAL_KEY) === "yes");

window.addEventListener("resize", applyView);
document.addEventListener("htmx:afterSwap", ({ target }) => {
  if (target.id === "desk") applyView();
});
applyView();
