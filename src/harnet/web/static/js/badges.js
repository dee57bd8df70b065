// Badges never hide a picture: on small frames only the mark is left, outside the frame; those that
// would lie over another give way. The whole badge shows on hover, focus and selection.
import { canvas } from "./view.js";

const ROOM = 3; // a frame narrower than so many badges keeps the mark alone
let areHidden = false;

export function toggleBadges() {
  areHidden = !areHidden;
  canvas()?.classList.toggle("no-badges", areHidden);
  return true;
}

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
    // A mark alone stands above its frame's left corner.
    const [dx, dy] = isSmall ? [frame.left - plate.left, frame.top - plate.top - 22] : [0, 0];
    place.setAttribute("transform", `translate(${dx} ${dy})`);
    const mine = { left: plate.left + dx, top: plate.top + dy, right: plate.left + dx + (isSmall ? 20 : plate.width), bottom: plate.top + dy + 20 };
    const isOver = taken.some((one) => one.left < mine.right && one.right > mine.left && one.top < mine.bottom && one.bottom > mine.top);
    badge.classList.toggle("gives-way", isOver);
    if (!isOver) taken.push(mine);
  }
}

document.addEventListener("view-changed", arrange);
document.addEventListener("items-drawn", arrange);
arrange();
