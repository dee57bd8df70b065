// Where to look at a page image: a click or an arrow on the small page.
const STEP = 0.02;

document.addEventListener("click", (event) => {
  const map = event.target.closest("[data-look-map]");
  if (!map) return;
  const box = map.getBoundingClientRect();
  look((event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
});

document.addEventListener("keydown", (event) => {
  if (!event.target.matches?.("[data-look-map]")) return;
  const [dx, dy] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key] ?? [0, 0];
  if (!dx && !dy) return;
  event.preventDefault();
  look(Number(field("x").value) + dx * STEP, Number(field("y").value) + dy * STEP);
});

const field = (name) => document.querySelector(`#close-look [name=${name}]`);

function look(x, y) {
  field("x").value = Math.min(Math.max(x, 0), 1).toFixed(4);
  field("y").value = Math.min(Math.max(y, 0), 1).toFixed(4);
  htmx.trigger("#close-look", "looks");
}

// The answer brings the small page anew; the keyboard stays on it.
document.addEventListener("htmx:beforeSwap", ({ detail }) => {
  if (detail.target?.id === "close-look") detail.target.dataset.held = String(Boolean(document.activeElement?.matches("[data-look-map]")));
});
document.addEventListener("htmx:afterSwap", ({ detail }) => {
  if (detail.target?.id === "close-look" && detail.target.dataset.held === "true") detail.target.querySelector("[data-look-map]").focus();
});
