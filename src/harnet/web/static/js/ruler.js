// The density ruler of the ledger and of a checked document: its flag is dragged to try targets, its dots are brushed to see
// only those. The server knows the scale; this says where the hand is, as a share of the width.
const WIDTH = 1244;
const HEADER = "X-Harnet-Drag";
let drag = null;
let clicks = 0;

const svgOf = () => document.querySelector("[data-ruler] svg");
const shareAt = (event) => {
  const edge = svgOf().getBoundingClientRect();
  return Math.min(1, Math.max(0, (event.clientX - edge.left) / edge.width));
};

document.addEventListener("pointerdown", (event) => {
  const ruler = event.target.closest?.("[data-ruler]");
  if (!ruler || event.button !== 0 || !event.target.closest("svg")) return;
  const isFlag = Boolean(event.target.closest(".grip"));
  if (!isFlag && event.target.closest("a")) return;
  event.preventDefault();
  const share = shareAt(event);
  // The flag keeps its distance from the hand that took it.
  const grab = isFlag ? share - Number(document.querySelector("[data-ruler] #flag").dataset.x) / WIDTH : 0;
  drag = { isFlag, grab, from: share, to: share - grab, address: ruler.dataset.ruler, startPx: event.clientX, clicks };
});

document.addEventListener("pointermove", (event) => {
  if (!drag) return;
  drag.to = shareAt(event) - drag.grab;
  drag.hasMoved ||= Math.abs(event.clientX - drag.startPx) > 3;
  if (!drag.hasMoved) return;
  if (drag.isFlag) {
    showFlag();
    tryThere(drag);
  } else {
    const brush = document.querySelector("#brush-now");
    brush.setAttribute("x", Math.min(drag.from, drag.to) * WIDTH);
    brush.setAttribute("width", Math.abs(drag.to - drag.from) * WIDTH);
  }
});

document.addEventListener("pointerup", () => {
  const done = drag;
  drag = null;
  if (!done?.hasMoved) return;
  if (done.isFlag) tryThere(done);
  else ask(`${done.address}&from_x=${done.from}&to_x=${done.to}`, done.clicks);
});
document.addEventListener("pointercancel", () => (drag = null));

// One question at a time; the place the hand is at when an answer comes is asked for next.
async function tryThere(asked) {
  if (asked.isAsking) {
    asked.isWaiting = true;
    return;
  }
  asked.isAsking = true;
  await ask(`${asked.address}&x=${asked.to}`, asked.clicks);
  asked.isAsking = false;
  if (drag === asked) showFlag();
  if (asked.isWaiting) {
    asked.isWaiting = false;
    tryThere(asked);
  }
}

function showFlag() {
  const flag = document.querySelector("[data-ruler] #flag");
  flag?.setAttribute("transform", `translate(${drag.to * WIDTH - Number(flag.dataset.x)} 0)`);
}

const ask = (place, asOf) => {
  if (asOf !== clicks) return Promise.resolve();
  const target = document.querySelector("[data-ruler]").dataset.rulerInto;
  const headers = { [HEADER]: String(asOf) };
  return htmx.ajax("GET", place, { target, swap: "innerHTML", headers });
};

// Whoever clicks while an answer to the hand is still on its way sees what the click leads to, not that answer.
document.addEventListener("htmx:beforeRequest", ({ detail }) => {
  if (detail.requestConfig.triggeringEvent?.type === "click") clicks += 1;
});
document.addEventListener("htmx:beforeOnLoad", (event) => {
  const asOf = event.detail.requestConfig.headers[HEADER];
  if (asOf !== undefined && Number(asOf) !== clicks) event.preventDefault();
});

document.addEventListener("keydown", (event) => {
  const flag = event.target.closest?.("[data-ruler] #flag");
  const step = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -25, PageUp: 25 }[event.key];
  if (!flag || !step) return;
  event.preventDefault();
  const place = new URL(flag.closest("[data-ruler]").dataset.ruler, location);
  place.searchParams.set("try", Math.max(1, Number(flag.getAttribute("aria-valuenow")) + step));
  history.replaceState({}, "", place);
  ask(place.pathname + place.search, clicks);
});

// Dialogs: what would change is shown before it is done.
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.target?.id === "batch-body") {
    const dialog = document.querySelector("#batch-dialog");
    if (!dialog.open) dialog.showModal();
  }
  if (event.detail.target?.id === "ledger") {
    document.querySelector("#ledger tr.chosen")?.scrollIntoView({ block: "nearest" });
  }
});
document.addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.successful && event.target.matches("[data-closes-dialog]")) close();
});
document.addEventListener("click", (event) => event.target.closest("[data-close-dialog]") && close());
const close = () => document.querySelector("dialog[open]")?.close();
