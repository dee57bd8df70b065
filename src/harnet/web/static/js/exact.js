// Exact previews on the pages: the tiles of a picture that are on screen, at the level that the
// zoom needs, drawn over the light preview. Nothing else is asked for.
import { canvas } from "./view.js";

const SVG = "http://www.w3.org/2000/svg";
const known = new Map();
let isWaiting = false;

document.addEventListener("view-changed", showSoon);
showSoon();

function showSoon() {
  if (isWaiting) return;
  isWaiting = true;
  setTimeout(() => {
    isWaiting = false;
    for (const group of canvas()?.querySelectorAll(".exact") ?? []) show(group);
  }, 120);
}

async function show(group) {
  const address = group.dataset.exact;
  const picture = await levelsOf(address);
  if (!picture?.levels || !group.isConnected) return;
  const matrix = group.getScreenCTM();
  const across = Math.hypot(matrix.a, matrix.b) * window.devicePixelRatio;
  let level = 0;
  while (level + 1 < picture.levels.length && picture.levels[level + 1][0] >= across) level += 1;
  const [width, height] = picture.levels[level];
  const seen = seenPart(matrix);
  const wanted = new Set();
  const [columns, rows] = [Math.ceil(width / picture.tile), Math.ceil(height / picture.tile)];
  for (let row = 0; row < rows; row += 1) {
    for (let column = 0; column < columns; column += 1) {
      const x = (column * picture.tile) / width;
      const y = (row * picture.tile) / height;
      const w = Math.min(picture.tile, width - column * picture.tile) / width;
      const h = Math.min(picture.tile, height - row * picture.tile) / height;
      if (x > seen.right || x + w < seen.left || y > seen.bottom || y + h < seen.top) continue;
      const key = `${level}/${column}/${row}`;
      wanted.add(key);
      if (group.querySelector(`[data-tile="${key}"]`)) continue;
      const image = document.createElementNS(SVG, "image");
      const given = { x, y, width: w, height: h, href: `${picture.address}/${key}`, preserveAspectRatio: "none", "data-tile": key };
      Object.entries(given).forEach(([name, value]) => image.setAttribute(name, value));
      group.append(image);
    }
  }
  for (const old of [...group.children]) if (!wanted.has(old.dataset.tile)) old.remove();
}

// The part of the picture's unit square that lies on the canvas.
function seenPart(matrix) {
  const room = canvas().getBoundingClientRect();
  const back = matrix.inverse();
  const corners = [[room.left, room.top], [room.right, room.top], [room.left, room.bottom], [room.right, room.bottom]];
  const points = corners.map(([x, y]) => new DOMPoint(x, y).matrixTransform(back));
  const xs = points.map((point) => point.x);
  const ys = points.map((point) => point.y);
  return { left: Math.min(...xs), right: Math.max(...xs), top: Math.min(...ys), bottom: Math.max(...ys) };
}

function levelsOf(address) {
  if (!known.has(address)) known.set(address, ask(address));
  return known.get(address);
}

async function ask(address) {
  for (let tries = 0; tries < 60; tries += 1) {
    const reply = await fetch(tries ? `${address}?asked=1` : address, { headers: { Accept: "application/json" } });
    const answer = await reply.json();
    if (!answer.waits) return answer;
    await new Promise((resolve) => setTimeout(resolve, 700));
  }
  return null;
}
