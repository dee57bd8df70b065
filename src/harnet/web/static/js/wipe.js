// A range in an element says how much of what lies below is seen: the element’s --wipe follows it.

export function followWipe(element) {
  const range = element.querySelector("input[type=range]");
  const place = () => element.style.setProperty("--wipe", `${range.value / 10}%`);
  range.addEventListener("input", place);
  place();
}

for (const element of document.querySelectorAll("[data-wipe]")) followWipe(element);
