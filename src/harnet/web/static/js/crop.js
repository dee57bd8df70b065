// Cropping on a print copy's picture: a drag draws the crop, a press chooses the spot to look at.
const CLICK_PX = 4;
let drag = null;

const at = (area, event) => {
  const box = area.getBoundingClientRect();
  return [
    Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)),
    Math.min(1, Math.max(0, (event.clientY - box.top) / box.height)),
  ];
};

document.addEventListener("pointerdown", (event) => {
  const area = event.target.closest?.(".crop-area");
  if (!area || event.button !== 0) return;
  event.preventDefault();
  drag = { area, from: at(area, event), px: [event.clientX, event.clientY] };
  area.setPointerCapture(event.pointerId);
});

document.addEventListener("pointermove", (event) => {
  if (!drag) return;
  const box = boxOf(drag.from, at(drag.area, event));
  const [x, y, width, height] = box;
  drag.area.querySelector("path").setAttribute("d", `M0 0H1V1H0ZM${x} ${y}h${width}v${height}h-${width}z`);
  const rect = drag.area.querySelector("rect");
  Object.entries({ x, y, width, height }).forEach(([name, value]) => rect.setAttribute(name, value));
});

document.addEventListener("pointerup", (event) => {
  if (!drag) return;
  const { area, from, px } = drag;
  drag = null;
  const form = area.closest("form");
  const fields = form.elements;
  const to = at(area, event);
  if (Math.hypot(event.clientX - px[0], event.clientY - px[1]) < CLICK_PX) {
    const crop = cropOf(fields, area);
    fields.spot_x.value = Math.min(1, Math.max(0, (to[0] - crop[0]) / crop[2]));
    fields.spot_y.value = Math.min(1, Math.max(0, (to[1] - crop[1]) / crop[3]));
  } else {
    const [x, y, width, height] = boxOf(from, to);
    const { pxW, pxH } = area.dataset;
    fields.crop_left.value = Math.floor(x * pxW);
    fields.crop_top.value = Math.floor(y * pxH);
    fields.crop_width.value = Math.max(1, Math.floor(width * pxW));
    fields.crop_height.value = Math.max(1, Math.floor(height * pxH));
  }
  fields.changed.value = "";
  form.dispatchEvent(new Event("change", { bubbles: true }));
});

document.addEventListener("keydown", (event) => {
  if (event.key !== "Escape" || !drag) return;
  const { area } = drag;
  drag = null;
  area.closest("form").dispatchEvent(new Event("change", { bubbles: true }));
});

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-whole-picture]");
  if (!button) return;
  const form = button.closest("form");
  form.elements.changed.value = "whole";
  form.dispatchEvent(new Event("change", { bubbles: true }));
});

const boxOf = (one, other) => [
  Math.min(one[0], other[0]),
  Math.min(one[1], other[1]),
  Math.abs(one[0] - other[0]),
  Math.abs(one[1] - other[1]),
];
const cropOf = (fields, area) => [
  fields.crop_left.value / area.dataset.pxW,
  fields.crop_top.value / area.dataset.pxH,
  fields.crop_width.value / area.dataset.pxW,
  fields.crop_height.value / area.dataset.pxH,
];
