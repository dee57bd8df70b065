// Answers draw only what the page does not show yet: it says what is on its canvas, and keeps it.
import { canvas, desk } from "./view.js";

const MOST_LETTERS = 7000; // servers take about 8 000 in a header

document.addEventListener("htmx:configRequest", ({ detail }) => {
  if (detail.target?.id !== "desk" || !canvas()) return;
  const items = [...canvas().querySelectorAll(".item")];
  const stamps = [canvas(), ...items].map((one) => one.dataset.stamp);
  const shown = stamps.join(".");
  if (shown.length <= MOST_LETTERS) detail.headers["Harnet-Shown"] = shown;
});

// How an answer that keeps the canvas is put in its place, part by part; the server asks for it by
// the name of this way to swap. What has not changed stays, with what one scrolled to.
htmx.defineExtension("redraw", {
  handleSwap(style, target, fragment) {
    if (style !== "redraw") return false;
    const [old, fresh] = [desk(), fragment.querySelector(".desk")];
    takeOver(old, fresh);
    const parts = [...fresh.querySelectorAll(":scope > :not(.stage), .stage-tools")]
      .map((part) => ({ part, known: old.querySelector(`.${part.classList[0]}`) }))
      .filter(({ part, known }) => part.matches("aside") || !known.isEqualNode(part));
    for (const { part, known } of parts) {
      takeOver(known, part);
      // The part itself stays: without it, browsers work out anew how all that follows looks.
      if (part.matches(".stage-tools")) replaceSome(known, part);
      else known.replaceChildren(...part.childNodes);
    }
    putCanvasAtRest();
    redraw(fresh.querySelector("#redrawn").content.firstElementChild.children);
    for (const other of fragment.querySelectorAll(":scope > :not(.desk)")) target.append(other);
    return parts.map(({ known }) => known);
  },
});

// A tool that is as it was stays, so that what it asked for is still answered to it.
function replaceSome(known, part) {
  const old = [...known.children];
  const kept = [...part.children].map((fresh) => old.find((one) => one.isEqualNode(fresh)) ?? fresh);
  kept.forEach((one, index) => {
    if (known.children[index] !== one) known.insertBefore(one, known.children[index] ?? null);
  });
  while (known.children.length > kept.length) known.lastElementChild.remove();
}

function takeOver(known, { attributes }) {
  for (const { name, value } of attributes) if (known.getAttribute(name) !== value) known.setAttribute(name, value);
}

function putCanvasAtRest() {
  canvas().setAttribute("class", "canvas");
  for (const rubber of canvas().querySelectorAll(".rubber")) rubber.setAttribute("visibility", "hidden");
  for (const guides of canvas().querySelectorAll(".guides")) guides.replaceChildren();
}

/** Brings placements on the canvas in line with how they are drawn now. */
export function redraw(items) {
  for (const fresh of [...items]) {
    const old = document.querySelector(`#${fresh.id}`);
    if (old) bringInLine(old, fresh);
  }
}

/** Carries attributes and texts over, so that images already shown are not loaded again. */
export function bringInLine(old, fresh) {
  if (old.tagName.toLowerCase() !== fresh.tagName.toLowerCase()) {
    old.replaceWith(document.importNode(fresh, true));
    return;
  }
  const isExact = old.classList.contains("exact");
  takeOver(old, fresh);
  for (const { name } of [...old.attributes]) if (!fresh.hasAttribute(name)) old.removeAttribute(name);
  if (isExact) return;
  if (old.children.length !== fresh.children.length) {
    old.replaceChildren(...document.importNode(fresh, true).childNodes);
    return;
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
