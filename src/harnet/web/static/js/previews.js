// A preview that is not there is being made: the page says so and asks for it again until it comes.
import { say } from "./notice.js";

const AGAIN_MS = 1500;
const MOST = 40;
let isSaid = false;

function again(address, times) {
  const full = new URL(address, location.href);
  full.searchParams.set("asked", times);
  return full.pathname + full.search;
}

document.addEventListener(
  "error",
  ({ target }) => {
    const name = target instanceof SVGImageElement ? "href" : "src";
    const address = target.getAttribute?.(name) ?? "";
    if (!/^\/(preview|ladder)\//.test(address)) return;
    const times = Number(target.dataset.asked ?? 0);
    if (times >= MOST) return;
    if (!isSaid) say("Previews are being made; they appear by themselves.");
    isSaid = true;
    target.dataset.asked = times + 1;
    setTimeout(() => target.isConnected && target.setAttribute(name, again(address, times + 1)), AGAIN_MS);
  },
  true,
);
document.addEventListener(
  "load",
  ({ target }) => {
    if (!target.dataset?.asked) return;
    delete target.dataset.asked;
    if (!isSaid || document.querySelector("[data-asked]")) return;
    isSaid = false;
    document.querySelector("#notice")?.replaceChildren();
  },
  true,
);
