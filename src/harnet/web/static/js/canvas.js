// The pointer on the page. It says how far the hand went; every figure and every outline that
// follows comes from the server, one question at a time, the last one winning.
import { say } from "./notice.js";

const CLICK_PX = 3;
let gesture = null;
let spaceIsHeld = false;
let panIsOn = false;

const desk = () => document.querySelector(".desk");
const canvas = () => document.querySelector("#canvas");

function pagePoint(event) {
  const point = new DOMPoint(event.clientX, event.clientY);
  return point.matrixTransform(canvas().getScreenCTM().inverse());
}

function show(itemId) {
  const { address, page } = desk().dataset;
  const place = `${address}?page=${page}&select=${itemId}`;
  htmx.ajax("GET", place, { target: "#desk" }).then(() => history.replaceState({}, "", place));
}

document.addEventListener("pointerdown", (event) => {
  const item = event.target.closest?.("#canvas .item");
  if (!item || event.button !== 0) {
    if (event.target.closest?.("#canvas") && event.button === 0) document.querySelector("#deselect")?.click();
    return;
  }
  event.preventDefault();
  item.focus({ preventScroll: true });
  const handle = event.target.dataset.handle ?? "";
  const pans = !handle && (spaceIsHeld || panIsOn) && item.matches(".picture.selected");
  gesture = {
    item: item.dataset.item,
    version: item.dataset.version,
    wasSelected: item.matches(".selected"),
    kind: handle ? "size" : pans ? "pan" : "move",
    handle,
    start: pagePoint(event),
    startPx: [event.clientX, event.clientY],
    dx: 0,
    dy: 0,
    hasMoved: false,
    isAsking: false,
    isWaiting: false,
  };
  canvas().setPointerCapture(event.pointerId);
});

document.addEventListener("pointermove", (event) => {
  if (!gesture) return;
  const [x, y] = gesture.startPx;
  if (!gesture.hasMoved && Math.hypot(event.clientX - x, event.clientY - y) < CLICK_PX) return;
  gesture.hasMoved = true;
  const point = pagePoint(event);
  gesture.dx = point.x - gesture.start.x;
  gesture.dy = point.y - gesture.start.y;
  measure(gesture);
});

document.addEventListener("pointerup", () => {
  const done = gesture;
  gesture = null;
  if (!done) return;
  if (!done.hasMoved) {
    if (!done.wasSelected) show(done.item);
    return;
  }
  keep(done.item, done.version, done);
});

document.addEventListener("pointercancel", () => {
  if (gesture?.hasMoved) show(gesture.item);
  gesture = null;
});

document.addEventListener("choose-item", (event) => show(event.target.dataset.item));

function values(from) {
  return { kind: from.kind, handle: from.handle ?? "", dx: from.dx, dy: from.dy };
}

function keep(item, version, from) {
  const { address, page } = desk().dataset;
  const place = `${address}?page=${page}&select=${item}`;
  return htmx
    .ajax("POST", `${address}/items/${item}/gesture`, {
      source: "#desk",
      target: "#desk",
      values: { ...values(from), version },
    })
    .then(() => history.replaceState({}, "", place));
}

async function measure(asked) {
  if (asked.isAsking) {
    asked.isWaiting = true;
    return;
  }
  asked.isAsking = true;
  const query = new URLSearchParams(values(asked));
  try {
    const reply = await fetch(`${desk().dataset.address}/items/${asked.item}/measure?${query}`, {
      headers: { Accept: "application/json" },
    });
    const answer = await reply.json();
    if (gesture === asked) reply.ok ? draw(asked.item, answer) : say(answer.trouble);
  } catch {
    say("Harnet does not answer. Let go to try again.");
  }
  asked.isAsking = false;
  if (asked.isWaiting && gesture === asked) {
    asked.isWaiting = false;
    measure(asked);
  }
}

function draw(itemId, answer) {
  const svg = new DOMParser().parseFromString(
    `<svg xmlns="http://www.w3.org/2000/svg">${answer.item}</svg>`,
    "image/svg+xml",
  );
  bringInLine(document.querySelector(`#item-${itemId}`), svg.documentElement.firstElementChild);
  const head = document.querySelector("#card-head");
  if (head && answer.card) {
    const html = document.createElement("template");
    html.innerHTML = answer.card.trim();
    bringInLine(head, html.content.firstElementChild);
  }
}

// Carries attributes and texts over, so that images already shown are not loaded again.
function bringInLine(old, fresh) {
  const sameShape =
    old.tagName.toLowerCase() === fresh.tagName.toLowerCase() &&
    old.children.length === fresh.children.length;
  if (!sameShape) {
    old.replaceWith(document.importNode(fresh, true));
    return;
  }
  for (const { name, value } of fresh.attributes) {
    if (old.getAttribute(name) !== value) old.setAttribute(name, value);
  }
  if (fresh.children.length === 0) {
    if (old.textContent !== fresh.textContent) old.textContent = fresh.textContent;
    return;
  }
  const texts = (node) => [...node.childNodes].filter((child) => child.nodeType === Node.TEXT_NODE);
  const freshTexts = texts(fresh);
  texts(old).forEach((text, index) => {
    const wanted = freshTexts[index]?.data ?? "";
    if (text.data !== wanted) text.data = wanted;
  });
  [...old.children].forEach((child, index) => bringInLine(child, fresh.children[index]));
}

// Arrow keys: nudges are gathered while the key repeats, then kept as one edit.
let nudged = null;
const WAY = { Left: [-1, 0], Right: [1, 0], Up: [0, -1], Down: [0, 1] };

export function nudge(direction, steps) {
  const { selected, version, nudge: step } = desk()?.dataset ?? {};
  if (!selected || !WAY[direction]) return false;
  const [x, y] = WAY[direction];
  nudged ??= { item: selected, version, kind: panIsOn ? "pan" : "move", dx: 0, dy: 0 };
  nudged.dx += x * steps * Number(step);
  nudged.dy += y * steps * Number(step);
  gesture = null;
  clearTimeout(nudged.timer);
  nudged.timer = setTimeout(() => {
    const done = nudged;
    nudged = null;
    keep(done.item, done.version, done);
  }, 220);
  return true;
}

export function togglePan(isOn) {
  const button = document.querySelector("#pan");
  if (!button || panIsOn === isOn) return false;
  panIsOn = isOn;
  button.setAttribute("aria-pressed", String(isOn));
  canvas().classList.toggle("pans", isOn);
  return true;
}

document.addEventListener("click", (event) => {
  if (event.target.closest("#pan")) togglePan(!panIsOn);
});
function takeUp() {
  document.querySelector(".film .on")?.scrollIntoView({ block: "nearest" });
  const isOn = panIsOn;
  panIsOn = false;
  if (isOn) togglePan(true);
}
document.addEventListener("htmx:afterSwap", takeUp);
takeUp();
for (const [name, isHeld] of [["keydown", true], ["keyup", false]]) {
  document.addEventListener(name, (event) => {
    if (event.key !== " " || !desk()?.dataset.selected || event.target.closest("input, select, button, a")) return;
    spaceIsHeld = isHeld;
    canvas().classList.toggle("pans", isHeld || panIsOn);
    event.preventDefault();
  });
}

// Dragging a picture from the list onto the page.
document.addEventListener("dragstart", (event) => {
  const place = event.target.closest?.("[data-place]");
  if (place) event.dataTransfer.setData("text/x-picture", place.dataset.place);
});
document.addEventListener("dragover", (event) => {
  if (event.target.closest?.("#canvas") && event.dataTransfer.types.includes("text/x-picture")) {
    event.preventDefault();
  }
});
document.addEventListener("drop", (event) => {
  const picture = event.dataTransfer?.getData("text/x-picture");
  if (!picture || !event.target.closest?.("#canvas")) return;
  event.preventDefault();
  const point = pagePoint(event);
  const { address, page } = desk().dataset;
  htmx.ajax("POST", `${address}/place`, {
    source: "#desk",
    target: "#desk",
    values: { page, picture, x_pt: point.x, y_pt: point.y },
  });
});
