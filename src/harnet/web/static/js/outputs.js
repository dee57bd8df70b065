// Two outputs: side by side or under a wipe, the whole page or its full size, scrolled together.
import { followWipe } from "./wipe.js";

const looks = document.getElementById("two-outputs");

function choose(name, value) {
  looks.dataset[name] = value;
  for (const button of document.querySelectorAll(`[data-${name}]`)) {
    if (button.tagName === "BUTTON") button.classList.toggle("on", button.dataset[name] === value);
  }
}

if (looks) {
  for (const name of ["look", "size"]) {
    for (const button of document.querySelectorAll(`button[data-${name}]`)) {
      button.addEventListener("click", () => choose(name, button.dataset[name]));
    }
  }
  followWipe(looks);
  const [one, other] = looks.querySelectorAll(".scrolls");
  for (const [from, to] of [[one, other], [other, one]]) {
    from.addEventListener("scroll", () => {
      to.scrollLeft = from.scrollLeft;
      to.scrollTop = from.scrollTop;
    });
  }
}
