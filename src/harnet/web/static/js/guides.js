// Rulers along the edges of the canvas, in the person's unit, and the guides dragged out of them.
// The rulers only draw; where a guide may lie and what snaps to it is decided by the server.
import { post } from "./canvas.js";
import { canvas, desk, pointOn, sheetUnder } from "./view.js";

const HIDDEN_KEY = "harnet-rulers-hidden";
const LEAST_LABEL_PX = 56;
const NICE = [1, 2, 5];
let dragged = null;

const isHidden = () => localStorage.getItem(HIDDEN_KEY) === "yes";

document.addEventListener("rulers", () => {
  localStorage.setItem(HIDDEN_KEY, isHidden() ? "no" : "yes");
  draw();
});

// The step of labels: 1, 2 or 5 times a power of ten of the unit, far enough apart.
function labelStep(pxPerUnit) {
  let power = 10 ** Math.floor(Math.log10(LEAST_LABEL_PX / pxPerUnit));
  for (;;) {
    for (const nice of NICE) if (nice * power * pxPerUnit >= LEAST_LABEL_PX) return nice * power;
    power *= 10;
  }
}

function draw() {
  document.body.classList.toggle("no-rulers", isHidden());
  const stage = document.querySelector(".stage");
  const sheet = document.querySelector(`.sheet[data-page="${desk()?.dataset.page}"]`);
  if (!stage || !sheet || isHidden()) return;
  const room = canvas().getBoundingClientRect();
  const matrix = sheet.getScreenCTM();
  const colours = getComputedStyle(document.documentElement);
  for (const ruler of document.querySelectorAll(".edge-ruler")) {
    const isAcross = ruler.dataset.axis === "y";
    const [length, origin, scale] = isAcross
      ? [room.width, matrix.e - room.left, matrix.a]
      : [room.height, matrix.f - room.top, matrix.d];
    drawOne(ruler, isAcross, length, origin, scale * Number(desk().dataset.unitPt), colours);
  }
}

function drawOne(ruler, isAcross, length, origin, pxPerUnit, colours) {
  const ratio = window.devicePixelRatio;
  const thick = isAcross ? ruler.clientHeight : ruler.clientWidth;
  ruler.width = Math.round((isAcross ? length : thick) * ratio);
  ruler.height = Math.round((isAcross ? thick : length) * ratio);
  const pen = ruler.getContext("2d");
  pen.scale(ratio, ratio);
  pen.strokeStyle = colours.getPropertyValue("--ink-faint");
  pen.fillStyle = colours.getPropertyValue("--ink-soft");
  pen.font = "10px sans-serif";
  pen.lineWidth = 1;
  const label = labelStep(pxPerUnit);
  const step = label / 5;
  const digits = Math.max(0, -Math.floor(Math.log10(label)));
  pen.beginPath();
  for (let mark = Math.ceil(-origin / pxPerUnit / step); origin + mark * step * pxPerUnit < length; mark += 1) {
    const at = Math.round(origin + mark * step * pxPerUnit) + 0.5;
    const isLong = mark % 5 === 0;
    const start = thick - (isLong ? thick : 4);
    if (isAcross) {
      pen.moveTo(at, start);
      pen.lineTo(at, thick);
    } else {
      pen.moveTo(start, at);
      pen.lineTo(thick, at);
    }
    if (!isLong) continue;
    const text = (mark * step).toFixed(digits).replace("-", "\u2212");
    if (isAcross) pen.fillText(text, at + 3, thick - 5);
    else {
      pen.save();
      pen.translate(thick - 5, at - 3);
      pen.rotate(-Math.PI / 2);
      pen.fillText(text, 0, 0);
      pen.restore();
    }
  }
  pen.stroke();
}

document.addEventListener("view-changed", draw);
window.addEventListener("resize", draw);
// Each swap of the desk is followed by a view-changed.
if (document.querySelector(".desk")) draw();

document.addEventListener(
  "pointerdown",
  (event) => {
    if (event.button !== 0) return;
    const ruler = event.target.closest?.(".edge-ruler");
    const guide = event.target.closest?.(".page-guide");
    if (!ruler && !guide) return;
    event.preventDefault();
    event.stopPropagation();
    const axis = (ruler ?? guide).dataset.axis;
    const page = guide?.closest(".sheet").dataset.page;
    dragged = { axis, was: guide?.dataset.at ?? "", page, guide };
    guide?.classList.add("moves");
  },
  true,
);

document.addEventListener("pointermove", (event) => {
  if (!dragged) return;
  dragged.hasMoved = true;
  ghost(event);
});

function placeOf(event) {
  const sheet = sheetUnder(event);
  const point = pointOn(sheet.dataset.page, event);
  const edge = sheet.querySelector(".trim-edge").getBBox();
  const isInside = point.x >= -20 && point.y >= -20 && point.x <= edge.width + 20 && point.y <= edge.height + 20;
  const at = dragged.axis === "x" ? point.x : point.y;
  const length = dragged.axis === "x" ? edge.width : edge.height;
  return { sheet, at: Math.min(Math.max(at, 0), length), isInside, edge };
}

function ghost(event) {
  document.querySelector("#guide-ghost")?.remove();
  const { sheet, at, isInside, edge } = placeOf(event);
  if (!isInside) return;
  const line = document.createElementNS("http://www.w3.org/2000/svg", "line");
  const ends = dragged.axis === "x" ? { x1: at, x2: at, y1: 0, y2: edge.height } : { x1: 0, x2: edge.width, y1: at, y2: at };
  Object.entries({ id: "guide-ghost", ...ends }).forEach(([name, value]) => line.setAttribute(name, value));
  sheet.append(line);
}

document.addEventListener("pointerup", (event) => {
  if (!dragged) return;
  const { axis, was, hasMoved, guide } = dragged;
  const { sheet, at, isInside } = placeOf(event);
  document.querySelector("#guide-ghost")?.remove();
  guide?.classList.remove("moves");
  const page = was ? dragged.page : sheet.dataset.page;
  dragged = null;
  if (!hasMoved) return;
  const { guides } = desk().dataset;
  const given = { page, axis, was, shown: desk().dataset.page };
  if (isInside) post(guides, { ...given, at: at.toFixed(3) });
  else if (was) post(`${guides}/remove`, given);
});

document.addEventListener(
  "keydown",
  (event) => {
    if (event.key !== "Escape" || !dragged) return;
    event.stopPropagation();
    dragged.guide?.classList.remove("moves");
    dragged = null;
    document.querySelector("#guide-ghost")?.remove();
  },
  true,
);
