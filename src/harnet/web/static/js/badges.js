// Badges never hide a picture: on small frames only the mark is left, outside the frame; those that
// would lie over another give way. The whole badge shows on hover, focus and selection.
import { canvas } from "./view.js";

const ROOM = 3; // a frame narrower than so many badges keeps the mark alone
const SIDE = 20; // of a mark alone, px
let areHidden = false;

export function toggleBadges() {
  areHidden = !areHidden;
  canvas()?.classList.toggle("no-badges", areHidden);
  return true;
}

// Where a mark alone may stand: above its frame's left corner, or else the right one, or below.
function besides(frame, plate) {
  const [left, right] = [frame.left - plate.left, frame.right - SIDE - plate.left];
  const [above, below] = [frame.top - plate.top - SIDE - 2, frame.bottom - plate.top + 2];
  return [[left, above], [right, above], [left, below], [right, below]];
}

function moved(plate, [dx, dy], isSmall) {
  const [left, top] = [plate.left + dx, plate.top + dy];
  return { left, top, right: left + (isSmall ? SIDE : plate.width), bottom: top + SIDE };
}

const meet = (one, two) =>
  one.left < two.right && one.right > two.left && one.top < two.bottom && one.bottom > two.top;

// All is read before anything is written, and only what differs is written: a page of hundreds is
// laid out once, or not at all. A plate's size is known without showing it: its units are pixels.
function arrange() {
  if (!canvas()) return;
  canvas().classList.toggle("no-badges", areHidden);
  const read = [...canvas().querySelectorAll(".badge-plate")].map((badge) => {
    const { e: left, f: top } = badge.getScreenCTM();
    const width = Number(badge.querySelector(".plate").getAttribute("width"));
    const frame = badge.parentNode.querySelector(".frame, .frame-back")?.getBoundingClientRect();
    return { badge, frame, plate: { left, top, width, height: SIDE } };
  });
  const taken = [];
  for (const { badge, frame, plate } of read) {
    if (!frame) continue;
    const isSmall = frame.width < ROOM * plate.width || frame.height < ROOM * plate.height;
    const places = isSmall ? besides(frame, plate) : [[0, 0]];
    const free = places.find((by) => !taken.some((one) => meet(one, moved(plate, by, isSmall))));
    const [x, y] = free ?? places[0];
    if (free) taken.push(moved(plate, free, isSmall));
    badge.classList.toggle("small", isSmall);
    badge.classList.toggle("gives-way", !free);
    const place = badge.querySelector(".badge-place");
    const moves = `translate(${x.toFixed(2)} ${y.toFixed(2)})`;
    if (place.getAttribute("transform") !== moves) place.setAttribute("transform", moves);
  }
}

// While the hand moves, answers come faster than badges need to give way.
const PAUSE_MS = 150;
let isDue = false;
function arrangeSoon() {
  if (isDue) return;
  isDue = true;
  setTimeout(() => {
    isDue = false;
    arrange();
  }, PAUSE_MS);
}

document.addEventListener("view-changed", arrange);
document.addEventListener("items-drawn", arrangeSoon);
arrange();
