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

function arrange() {
  if (!canvas()) return;
  canvas().classList.toggle("no-badges", areHidden);
  const taken = [];
  for (const badge of canvas().querySelectorAll(".badge-plate")) {
    badge.classList.remove("small", "gives-way");
    const place = badge.querySelector(".badge-place");
    place.removeAttribute("transform");
    const frame = badge.parentNode.querySelector(".frame, .frame-back")?.getBoundingClientRect();
    const plate = badge.querySelector(".plate").getBoundingClientRect();
    if (!frame) continue;
    const isSmall = frame.width < ROOM * plate.width || frame.height < ROOM * plate.height;
    badge.classList.toggle("small", isSmall);
    const places = isSmall ? besides(frame, plate) : [[0, 0]];
    const free = places.find((by) => !taken.some((one) => meet(one, moved(plate, by, isSmall))));
    const by = free ?? places[0];
    place.setAttribute("transform", `translate(${by[0]} ${by[1]})`);
    badge.classList.toggle("gives-way", !free);
    if (free) taken.push(moved(plate, by, isSmall));
  }
}

document.addEventListener("view-changed", arrange);
document.addEventListener("items-drawn", arrange);
arrange();
