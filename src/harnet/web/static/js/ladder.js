// The density ladder: one density under the glass, of the sample that was chosen on the picture.
document.addEventListener("click", (event) => {
  const chosen = event.target.closest("[data-rung]");
  if (chosen) show(chosen);
  const whole = event.target.closest("[data-sample]");
  if (!whole) return;
  const box = whole.getBoundingClientRect();
  const place = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
  for (const image of document.querySelectorAll("[data-rung] img, #rung")) {
    const address = new URL(image.src);
    address.searchParams.delete("asked");
    ["x", "y"].forEach((name, index) => address.searchParams.set(name, place[index].toFixed(4)));
    image.src = address.pathname + address.search;
  }
});

function show(button) {
  const { rung } = button.dataset;
  const glass = document.querySelector("#rung");
  const address = new URL(glass.src);
  glass.src = address.pathname.replace(/\d+$/, rung) + address.search;
  glass.alt = `The sample at ${rung} ppi`;
  document.querySelector("[data-rung-name]").textContent = `${rung} ppi`;
  for (const one of document.querySelectorAll("[data-rung]")) one.setAttribute("aria-pressed", String(one === button));
}
