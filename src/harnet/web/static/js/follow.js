// What the hand holds follows it in the same frame of the screen: what is drawn is moved by matrices
// that the server drew it with. Figures, bounds and what things come to rest on follow with its answers.
const NOWHERE = { x: 0, y: 0 };
const MOST_APART = 8;

/** What a gesture holds: its parts are looked up when it begins and whenever they were drawn anew. */
export function hold(gesture, handle) {
  gesture.parts = null;
  gesture.stands = { ...NOWHERE };
  if (!handle) return;
  gesture.ways = JSON.parse(handle.dataset.ways ?? "[]");
  gesture.scales = "scales" in handle.dataset;
  if (!handle.dataset.centre) return;
  const [x, y] = handle.dataset.centre.split(" ").map(Number);
  gesture.centre = { x, y };
  gesture.step = Number(handle.dataset.step);
  gesture.stands = pointOf(handle.parentNode.getAttribute("transform"));
  gesture.standsInSteps = false;
}

/** What is drawn stands for this place of the hand from now on. */
export function standsFor(gesture, hand, snap, reach) {
  if (!gesture.stands) return;
  const [x, y] = snap ?? [0, 0];
  gesture.parts = null;
  gesture.stands = { x: hand.x + x, y: hand.y + y };
  gesture.standsInSteps = hand.inSteps;
  gesture.rests = { x: x ? hand.x + x : null, y: y ? hand.y + y : null, reach: reach / 2 };
}

/** Brings everything that is held to where the hand is. */
export function follow(gesture) {
  if (!gesture.stands) return;
  const maps = mapsOf(gesture);
  if (!maps) return;
  for (const part of partsOf(gesture)) {
    const now = lookAgain(part);
    part.shown = moved(part, maps);
    if (part.shown !== now) part.node.setAttribute("transform", part.shown);
  }
}

/** Lets go: what has not been drawn anew since stands where it stood before. */
export function letGo(gesture) {
  for (const part of gesture.parts ?? []) {
    const { node } = part;
    node.classList.remove("apart");
    const now = lookAgain(part);
    const { own, shown } = part;
    if (shown === own || now !== shown) continue;
    if (own) node.setAttribute("transform", own);
    else node.removeAttribute("transform");
  }
  gesture.parts = null;
}

// What is drawn anew by others than the hand stands by itself. Signs get another size as the view is
// zoomed, and nothing else of them changes.
const SIZE = /scale\([^)]*\)/;
function lookAgain(part) {
  const now = part.node.getAttribute("transform") ?? "";
  if (now === part.shown) return now;
  const isSized = now.replace(SIZE, "") === part.shown.replace(SIZE, "");
  part.own = isSized ? part.own.replace(SIZE, SIZE.exec(now)[0]) : now;
  if (isSized) part.shown = now;
  return now;
}

function partsOf(gesture) {
  gesture.parts ??= itemsOf(gesture).flatMap(gesture.kind === "move" ? asAWhole : inParts);
  return gesture.parts;
}

function itemsOf(gesture) {
  const names = gesture.items.split(",").map((one) => `item-${one.split(":")[0]}`);
  return names.map((name) => document.getElementById(name)).filter((item) => item);
}

// Where everything goes the same way, the item goes as one. What lies under it and above it is
// painted once, then: a browser draws few items that are about to move apart from the others.
function asAWhole(item, index, { length }) {
  const own = item.getAttribute("transform") ?? "";
  if (length <= MOST_APART) item.classList.add("apart");
  return [{ node: item, isPoint: false, as: "rest", own, shown: own }];
}

function inParts(item) {
  return [...item.querySelectorAll("[data-with]")].map((node) => {
    const own = node.getAttribute("transform") ?? "";
    const [kind, as] = node.dataset.with.split(" ");
    return { node, isPoint: kind === "point", as: as ?? (kind === "point" ? "frame" : kind), own, shown: own };
  });
}

const PLACE = /translate\(([-\d.e]+)[ ,]([-\d.e]+)\)/;
function pointOf(transform) {
  const [, x, y] = PLACE.exec(transform);
  return { x: Number(x), y: Number(y) };
}

function moved({ own, isPoint, as }, maps) {
  const map = maps[as];
  if (map.isIdentity) return own;
  if (!isPoint) return `matrix(${[map.a, map.b, map.c, map.d, map.e, map.f].join(" ")}) ${own}`.trim();
  const { x, y } = map.transformPoint(pointOf(own));
  return own.replace(PLACE, `translate(${x} ${y})`);
}

// From where things stand to where the hand is, for frames, the pictures in them, and the rest.
function mapsOf(gesture) {
  const here = mapAt(gesture, shownHand(gesture), gesture.inSteps);
  const there = mapAt(gesture, gesture.stands, gesture.standsInSteps);
  if (!here || !there) return null;
  const map = here.multiply(there.inverse());
  const none = new DOMMatrix();
  if (gesture.kind === "pan") return { frame: none, picture: map, rest: none };
  if (gesture.kind === "size") return { frame: map, picture: gesture.scales ? map : none, rest: none };
  return { frame: map, picture: map, rest: map };
}

// What came to rest on a line stays there while the hand is near it.
function shownHand({ dx, dy, rests, isFree }) {
  const near = (hand, line) => (!isFree && line != null && Math.abs(hand - line) <= rests.reach ? line : hand);
  return { x: near(dx, rests?.x), y: near(dy, rests?.y) };
}

function mapAt(gesture, { x, y }, inSteps) {
  const { kind, centre, ways } = gesture;
  if (kind === "turn") {
    const angle = (Math.atan2(y - centre.y, x - centre.x) * 180) / Math.PI;
    const step = inSteps ? gesture.step : 0;
    return new DOMMatrix()
      .translate(centre.x, centre.y)
      .rotate(step ? Math.round(angle / step) * step : angle)
      .translate(-centre.x, -centre.y);
  }
  if (kind !== "size") return new DOMMatrix([1, 0, 0, 1, x, y]);
  const maps = ways.map(([across, down]) => {
    const [a, b, c, d, e, f] = across.map((value, index) => value * x + down[index] * y);
    return new DOMMatrix([1 + a, b, c, 1 + d, e, f]);
  });
  const largest = maps.reduce((one, other) => (other.a + other.d > one.a + one.d ? other : one));
  // Past the smallest a frame can be the server says how it stands.
  const isThere = largest.a + largest.d > 0 && largest.a * largest.d - largest.b * largest.c > 1e-4;
  return isThere ? largest : null;
}
