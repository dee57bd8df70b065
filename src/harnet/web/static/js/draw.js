// On the empty part of a page: drawing a frame, a text, a rectangle or a line, or choosing what a
// rubber band touches. Then the marker of the reach bar, copying, and what is pasted.
import { choose, chosen, keep, measure, post } from "./canvas.js";
import { say } from "./notice.js";
import { applyTyped } from "./typing.js";
import { canvas, desk, pointOn, sheetUnder } from "./view.js";

const CLICK_PX = 4;
const COPIED = "harnet-copied";
let tool = null;
let band = null;
let pull = null;

document.addEventListener("click", (event) => {
  const draws = event.target.closest("[data-draws]");
  if (!draws) return;
  tool = draws.dataset.draws;
  canvas().classList.add("draws");
});

export function leaveTool() {
  if (!tool) return false;
  tool = null;
  canvas()?.classList.remove("draws");
  return true;
}

document.addEventListener("pointerdown", (event) => {
  const isOnItem = event.target.closest?.("#canvas .item");
  if (!event.target.closest?.("#canvas") || event.button !== 0 || (isOnItem && !tool)) return;
  event.preventDefault();
  const applied = applyTyped();
  if (applied) {
    if (!tool) applied.then(() => document.querySelector("#deselect")?.click());
    return;
  }
  const sheet = sheetUnder(event);
  band = { page: sheet.dataset.page, from: pointOn("canvas", event), px: [event.clientX, event.clientY] };
  canvas().setPointerCapture(event.pointerId);
});

document.addEventListener("pointermove", (event) => {
  if (!band) return;
  band.to = pointOn("canvas", event);
  const { x, y, width, height } = boxOf(band.from, band.to);
  const ends = { x1: band.from.x, y1: band.from.y, x2: band.to.x, y2: band.to.y };
  show(tool === "line" ? "#rubber-line" : "#rubber", tool === "line" ? ends : { x, y, width, height });
});

document.addEventListener(
  "keydown",
  (event) => {
    if (event.key !== "Escape" || !(band || pull)) return;
    event.stopPropagation();
    if (pull) choose(chosen(), desk().dataset.page);
    band = pull = null;
    leaveTool();
    hideRubber();
  },
  true,
);

document.addEventListener("pointerup", (event) => {
  const done = band;
  band = null;
  if (!done) return;
  hideRubber();
  const isClick = Math.hypot(event.clientX - done.px[0], event.clientY - done.px[1]) < CLICK_PX;
  if (tool) {
    const kind = tool;
    leaveTool();
    const from = pointOn(done.page, { clientX: done.px[0], clientY: done.px[1] });
    const to = isClick ? { x: from.x + 120, y: from.y + (kind === "line" ? 0 : 80) } : pointOn(done.page, event);
    const shape = kind === "line"
      ? { x: from.x, y: from.y, end_x: to.x, end_y: to.y, steps: event.shiftKey ? "yes" : "no" }
      : boxOf(from, to);
    post(`${desk().dataset.address}/draw`, { kind, page: done.page, ...shape });
    return;
  }
  if (isClick) {
    if (desk().dataset.items) document.querySelector("#deselect")?.click();
    return;
  }
  const area = { left: Math.min(done.px[0], event.clientX), right: Math.max(done.px[0], event.clientX), top: Math.min(done.px[1], event.clientY), bottom: Math.max(done.px[1], event.clientY) };
  const touched = [...document.querySelectorAll(`.sheet[data-page="${done.page}"] .item`)].filter((item) => {
    const edge = (item.querySelector(".frame, .frame-back, .rectangle") ?? item).getBoundingClientRect();
    return edge.left < area.right && edge.right > area.left && edge.top < area.bottom && edge.bottom > area.top;
  });
  if (touched.length) choose(touched.map((item) => item.dataset.item), done.page);
});

function show(which, places) {
  const rubber = document.querySelector(which);
  for (const [name, value] of Object.entries(places)) rubber.setAttribute(name, value);
  rubber.setAttribute("visibility", "visible");
}
const hideRubber = () =>
  document.querySelectorAll(".rubber").forEach((one) => one.setAttribute("visibility", "hidden"));

const boxOf = (one, other) => ({
  x: Math.min(one.x, other.x),
  y: Math.min(one.y, other.y),
  width: Math.abs(one.x - other.x),
  height: Math.abs(one.y - other.y),
});

// The marker of the reach bar: pulled, it scales the picture and its frame.
document.addEventListener("pointerdown", (event) => {
  const bar = event.target.closest?.(".reach-bar");
  if (!bar || event.button !== 0) return;
  event.preventDefault();
  pull = { items: desk().dataset.items, page: desk().dataset.page, kind: "width", dx: 0, dy: 0, end: Number(bar.dataset.endPt), isLive: true };
  pullTo(event);
});
document.addEventListener("pointermove", (event) => pull && pullTo(event));
document.addEventListener("pointerup", () => {
  const done = pull;
  pull = null;
  if (!done) return;
  done.isLive = false;
  keep(done);
});
function pullTo(event) {
  const edge = document.querySelector(".reach-bar").getBoundingClientRect();
  pull.share = Math.max(0.01, (event.clientX - edge.left) / edge.width);
  pull.dx = pull.share * pull.end;
  followMark();
  measure(pull);
}
// The marker is where the hand is; its figure follows.
function followMark() {
  const mark = document.querySelector(".reach-bar .now-mark");
  if (!pull || !mark) return;
  const x = Math.min(1, pull.share) * mark.ownerSVGElement.viewBox.baseVal.width;
  mark.setAttribute("transform", `translate(${x - Number(mark.dataset.now)} 0)`);
}
document.addEventListener("items-drawn", followMark);

// Copied items are remembered by number, so that they can be pasted on any page of any job.
export function copyChosen() {
  const ids = desk()?.dataset.items.split(",").filter(Boolean).map((one) => one.split(":")[0]) ?? [];
  if (!ids.length) return false;
  localStorage.setItem(COPIED, ids.join(","));
  return true;
}
document.addEventListener("paste", (event) => {
  if (!desk() || event.target.matches?.("input, textarea")) return;
  const { address, arrange, page, token } = desk().dataset;
  const picture = [...(event.clipboardData?.files ?? [])][0];
  event.preventDefault();
  if (picture) {
    const ending = picture.type.split("/")[1] ?? "png";
    const time = new Date().toTimeString().slice(0, 8).replaceAll(":", "-");
    const form = new FormData();
    form.append("file", picture, `pasted ${time}.${ending}`);
    form.append("page", page);
    fetch(`${address}/paste-picture`, { method: "POST", body: form, headers: { "X-CSRFToken": token, "HX-Request": "true" } }).then(
      async (reply) => {
        const where = reply.headers.get("HX-Retarget") ?? "#desk";
        htmx.swap(where, await reply.text(), { swapStyle: "innerHTML" });
        if (reply.ok) history.replaceState({}, "", reply.headers.get("HX-Replace-Url"));
      },
    );
    return;
  }
  const copied = localStorage.getItem(COPIED);
  if (copied) post(`${arrange}/paste`, { copied, page });
});

// Files from outside dropped onto a page: each goes to the shelf, then onto the page, one by one. On
// an empty frame they fill that one and the empty ones behind it, as one reads.
function emptyFramesFrom(frame) {
  if (!frame) return [];
  const page = frame.dataset.page;
  const boxes = [...document.querySelectorAll(`.item.frame[data-page="${page}"]`)].map((one) => ({
    id: one.dataset.item,
    box: one.querySelector(".frame-back").getBoundingClientRect(),
  }));
  boxes.sort((one, other) =>
    Math.abs(one.box.top - other.box.top) < Math.min(one.box.height, other.box.height) / 2
      ? one.box.left - other.box.left
      : one.box.top - other.box.top,
  );
  const ids = boxes.map(({ id }) => id);
  return ids.slice(ids.indexOf(frame.dataset.item));
}
document.addEventListener("dragover", (event) => {
  if (event.target.closest?.("#canvas") && event.dataTransfer.types.includes("Files")) event.preventDefault();
});
document.addEventListener("drop", async (event) => {
  const files = [...(event.dataTransfer?.files ?? [])];
  if (!files.length || !event.target.closest?.("#canvas")) return;
  event.preventDefault();
  const page = sheetUnder(event).dataset.page;
  const at = pointOn(page, event);
  const frames = emptyFramesFrom(event.target.closest(".item.frame"));
  const failures = [];
  let placed = 0;
  for (const [index, file] of files.entries()) {
    say(`${file.name}: on its way, ${index + 1} of ${files.length}`);
    const form = new FormData();
    form.append("file", file);
    const headers = { "X-CSRFToken": desk().dataset.token, Accept: "application/json" };
    const reply = await fetch("/pictures/upload", { method: "POST", body: form, headers });
    const answer = await reply.json();
    if (!reply.ok) {
      failures.push(answer.failure);
      continue;
    }
    const where = frames[placed] ? { frame: frames[placed] } : { page, x_pt: at.x + 20 * placed, y_pt: at.y + 20 * placed };
    await post(`${desk().dataset.address}/place`, { picture: answer.id, ...where });
    placed += 1;
  }
  if (failures.length) say(failures.join(" "));
});

// Preview or picture? The server needs to know how many pixels of the screen the picture covers.
document.addEventListener("click", async (event) => {
  const asks = event.target.closest("#why-rough");
  if (!asks) return;
  const image = document.querySelector(".item.selected .seen, .item.selected .frame-back");
  const screenPx = Math.round((image?.getBoundingClientRect().width ?? 0) * window.devicePixelRatio);
  htmx.ajax("GET", `${asks.dataset.why}?screen_px=${screenPx}`, { target: "#why" });
});
