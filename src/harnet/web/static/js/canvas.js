// The pointer on the pages. What it holds follows it at once; it says how far the hand went, and
// every figure comes from the server, one question at a time, the last one winning.
import { follow, hold, letGo, standsFor } from "./follow.js";
import { say } from "./notice.js";
import { bringInLine, redraw } from "./redraw.js";
import { answered, inTurn, isTaken } from "./turns.js";
import { applyTyped } from "./typing.js";
import { canvas, desk, pointOn, pxPt, sheetUnder } from "./view.js";

const CLICK_PX = 3;
let gesture = null;
let spaceIsHeld = false;
let panIsOn = false;

export const chosen = () =>
  desk().dataset.items.split(",").filter(Boolean).map((one) => one.split(":")[0]);

export function choose(ids, page) {
  const { address } = desk().dataset;
  const place = `${address}?page=${page ?? desk().dataset.page}&select=${ids.join(",")}`;
  return inTurn(() => htmx.ajax("GET", place, { target: "#desk" })).then(() => history.replaceState({}, "", place));
}

document.addEventListener("pointerdown", (event) => {
  const item = event.target.closest?.("#canvas .item");
  if (!item || event.button !== 0 || canvas().classList.contains("draws")) return;
  event.preventDefault();
  const id = item.dataset.item;
  if (document.body.matches(".reads")) {
    choose([id], item.dataset.page);
    return;
  }
  keepNudged();
  const applied = applyTyped();
  if (applied) {
    applied.then(() => choose([id], item.dataset.page));
    return;
  }
  item.focus({ preventScroll: true });
  const handle = event.target.dataset.handle ?? "";
  const known = chosen();
  if (event.shiftKey && !handle) {
    choose(known.includes(id) ? known.filter((one) => one !== id) : [...known, id], item.dataset.page);
    return;
  }
  const wasSelected = item.matches(".selected");
  const pans = !handle && (spaceIsHeld || panIsOn) && item.matches(".picture.selected");
  const kind = handle === "turn" ? "turn" : handle ? "size" : pans ? "pan" : "move";
  const movesAll = kind === "move" && wasSelected && known.length > 1;
  gesture = {
    item: id,
    page: item.dataset.page,
    items: movesAll ? desk().dataset.items : `${id}:${item.dataset.version}`,
    wasSelected,
    kind,
    handle,
    start: pointOn(item.dataset.page, event),
    startPx: [event.clientX, event.clientY],
    dx: 0,
    dy: 0,
  };
  hold(gesture, handle ? event.target : null);
  canvas().setPointerCapture(event.pointerId);
});

document.addEventListener("pointermove", (event) => {
  if (!gesture) return;
  const [x, y] = gesture.startPx;
  if (!gesture.hasMoved && Math.hypot(event.clientX - x, event.clientY - y) < CLICK_PX) return;
  gesture.hasMoved = true;
  const point = pointOn(gesture.page, event);
  const isTurn = gesture.kind === "turn";
  gesture.dx = isTurn ? point.x : point.x - gesture.start.x;
  gesture.dy = isTurn ? point.y : point.y - gesture.start.y;
  gesture.isFree = event.altKey;
  gesture.inSteps = event.shiftKey;
  follow(gesture);
  measure(gesture);
});

document.addEventListener("pointerup", () => {
  const done = gesture;
  gesture = null;
  if (!done) return;
  if (!done.hasMoved) {
    if (!done.wasSelected || chosen().length > 1) choose([done.item], done.page);
    return;
  }
  keep(done);
});

document.addEventListener("pointercancel", () => {
  if (gesture?.hasMoved) giveUp(gesture);
  gesture = null;
});

// Escape gives up what the hand is doing: everything is where it was.
document.addEventListener(
  "keydown",
  (event) => {
    if (event.key !== "Escape" || !gesture) return;
    event.stopPropagation();
    event.preventDefault();
    const given = gesture;
    gesture = null;
    if (given.hasMoved) giveUp(given);
  },
  true,
);

function giveUp(given) {
  letGo(given);
  choose(chosen(), given.page);
}

document.addEventListener("choose-item", (event) =>
  choose([event.target.dataset.item], event.target.dataset.page),
);

function values(from) {
  return {
    items: from.items,
    kind: from.kind,
    handle: from.handle ?? "",
    dx: from.dx,
    dy: from.dy,
    px_pt: pxPt(),
    snap: from.isFree || !["move", "size"].includes(from.kind) || from.isExact ? "no" : "yes",
    steps: from.inSteps ? "yes" : "no",
  };
}

export const keep = (from) =>
  inTurn(() => {
    const given = { ...values(from), items: asShown(from.items) };
    const address = `${desk().dataset.address}/gesture`;
    return htmx.ajax("POST", address, { source: "#desk", target: "#desk", values: given }).then(() => letGo(from));
  });

// An edit of this window may have been answered since the hand began: its versions hold now.
const asShown = (items) =>
  items
    .split(",")
    .map((one) => one.split(":")[0])
    .map((id) => `${id}:${document.querySelector(`#item-${id}`)?.dataset.version ?? ""}`)
    .join(",");

export async function measure(asked) {
  if (asked.isAsking) {
    asked.isWaiting = true;
    return;
  }
  asked.isAsking = true;
  setBusy(true);
  // What was kept before is where this begins.
  await answered();
  const query = new URLSearchParams(values(asked));
  const hand = { x: asked.dx, y: asked.dy, inSteps: asked.inSteps };
  try {
    const reply = await fetch(`${desk().dataset.address}/measure?${query}`, {
      headers: { Accept: "application/json" },
    });
    const answer = await reply.json();
    if (gesture === asked || asked.isLive) reply.ok ? draw(asked, answer, hand) : say(answer.failure);
  } catch {
    say("Harnet does not answer. Let go to try again.");
  }
  asked.isAsking = false;
  if (asked.isWaiting && (gesture === asked || asked.isLive)) {
    asked.isWaiting = false;
    measure(asked);
  } else setBusy(false);
}

// While the figures do not yet stand where the hand is.
function setBusy(isBusy) {
  canvas()?.setAttribute("aria-busy", String(isBusy));
}

function draw(asked, answer, hand) {
  for (const item of answer.items) {
    const svg = new DOMParser().parseFromString(
      `<svg xmlns="http://www.w3.org/2000/svg">${item}</svg>`,
      "image/svg+xml",
    );
    redraw(svg.documentElement.children);
  }
  standsFor(asked, hand, answer.snap, answer.reach);
  follow(asked);
  const head = document.querySelector("#card-head");
  if (head && answer.card) {
    const html = document.createElement("template");
    html.innerHTML = answer.card.trim();
    bringInLine(head, html.content.firstElementChild);
  }
  const guides = document.querySelector(`.sheet[data-page="${asked.page}"] .guides`);
  guides?.replaceChildren(
    ...answer.guides.map(([isUpright, at, start, end]) => {
      const line = document.createElementNS("http://www.w3.org/2000/svg", "line");
      const ends = isUpright ? [at, start, at, end] : [start, at, end, at];
      ["x1", "y1", "x2", "y2"].forEach((name, index) => line.setAttribute(name, ends[index]));
      return line;
    }),
  );
  document.dispatchEvent(new Event("items-drawn"));
}

// Arrow keys: nudges are shown at once, gathered while the key repeats, then kept as one edit.
let nudged = null;
const WAY = { Left: [-1, 0], Right: [1, 0], Up: [0, -1], Down: [0, 1] };

export function nudge(direction, steps) {
  const { items, nudge: step } = desk()?.dataset ?? {};
  if (!items || !WAY[direction]) return false;
  const [x, y] = WAY[direction];
  const { page } = desk().dataset;
  nudged ??= { items, page, kind: panIsOn ? "pan" : "move", dx: 0, dy: 0, isExact: true, isLive: true };
  nudged.stands ?? hold(nudged);
  nudged.dx += x * steps * Number(step);
  nudged.dy += y * steps * Number(step);
  gesture = null;
  follow(nudged);
  measure(nudged);
  clearTimeout(nudged.timer);
  nudged.timer = setTimeout(keepNudged, 220);
  return true;
}

function keepNudged() {
  if (!nudged) return;
  const done = nudged;
  nudged = null;
  clearTimeout(done.timer);
  done.isLive = false;
  keep(done);
}

// Whatever is asked for by a button or a key follows what the hand did before.
document.addEventListener("htmx:confirm", (event) => {
  const { etc, issueRequest } = event.detail;
  if (etc?.returnPromise) return;
  keepNudged();
  if (!isTaken()) return;
  event.preventDefault();
  inTurn(() => issueRequest(true));
});

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
    if (event.key !== " " || !desk()?.dataset.items || event.target.closest("input, select, textarea, button, a, summary")) return;
    spaceIsHeld = isHeld;
    canvas().classList.toggle("pans", isHeld || panIsOn);
    event.preventDefault();
  });
}

// Several pages of the strip are picked with Shift or Ctrl and moved together.
const picked = (number) => {
  const chosen = [...document.querySelectorAll(".film .picked")].map((one) => one.dataset.film);
  return chosen.includes(number) ? chosen : [number];
};
document.addEventListener(
  "click",
  (event) => {
    const film = event.target.closest?.("[data-film]");
    if (!film || !(event.shiftKey || event.ctrlKey || event.metaKey)) return;
    event.preventDefault();
    event.stopPropagation();
    const frames = [...document.querySelectorAll("[data-film]")];
    const from = frames.findIndex((one) => one.matches(".picked, .on"));
    const to = frames.indexOf(film);
    if (event.shiftKey) frames.slice(Math.min(from, to), Math.max(from, to) + 1).forEach((one) => one.classList.add("picked"));
    else film.classList.toggle("picked");
  },
  true,
);

/** Moves the page shown, or those picked, one place on or back. */
export function movePages(step) {
  const { address, page, pages } = desk().dataset;
  const moved = picked(page).map(Number);
  const to = step < 0 ? Math.min(...moved) - 1 : Math.max(...moved) + 1;
  if (to < 1 || to > Number(pages)) return false;
  post(`${address}/move-pages`, { pages: moved.join(","), to });
  return true;
}

// Dragging a picture from the list onto a page, or into an empty frame; a page in the strip.
document.addEventListener("dragstart", (event) => {
  const place = event.target.closest?.("[data-place]");
  const film = event.target.closest?.("[data-film]");
  if (place) event.dataTransfer.setData("text/x-picture", place.dataset.place);
  if (film) event.dataTransfer.setData("text/x-page", picked(film.dataset.film).join(","));
});
document.addEventListener("dragover", (event) => {
  const { types } = event.dataTransfer;
  const takesPicture = event.target.closest?.("#canvas") && types.includes("text/x-picture");
  const takesPage = event.target.closest?.("[data-film]") && types.includes("text/x-page");
  if (takesPicture || takesPage) event.preventDefault();
});
document.addEventListener("drop", (event) => {
  const { address, page } = desk()?.dataset ?? {};
  const film = event.target.closest?.("[data-film]");
  const moved = event.dataTransfer?.getData("text/x-page");
  if (film && moved) {
    event.preventDefault();
    post(`${address}/move-pages`, { pages: moved, to: film.dataset.film });
    return;
  }
  const picture = event.dataTransfer?.getData("text/x-picture");
  if (!picture || !event.target.closest?.("#canvas")) return;
  event.preventDefault();
  const frame = event.target.closest(".item.frame")?.dataset.item;
  const under = sheetUnder(event)?.dataset.page ?? page;
  const point = pointOn(under, event);
  const where = frame ? { frame } : { page: under, x_pt: point.x, y_pt: point.y };
  post(`${address}/place`, { picture, ...where });
});

export function post(address, given) {
  return inTurn(() => htmx.ajax("POST", address, { source: "#desk", target: "#desk", values: given }));
}
