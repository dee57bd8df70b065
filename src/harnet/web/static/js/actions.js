// The list under "?": every key by area, and every action of this page by name. Typing narrows both;
// Enter does the first action that is left.
const KEYS = { undo: "Ctrl+Z", redo: "Ctrl+Y", "scale-reach": "r", "scale-native": "e", "true-size": "t", "take-off": "Delete", duplicate: "Ctrl+D", pan: "Enter" };
let actions = [];

const dialog = () => document.querySelector("#keys");

export function showActions() {
  if (!dialog() || dialog().open) return;
  actions = found();
  dialog().showModal();
  const field = document.querySelector("#find-action");
  field.value = "";
  narrow("");
  field.focus();
}

function found() {
  const known = new Set();
  const all = document.querySelectorAll("header nav a, .job-bar a, .job-bar button, main button, main a.btn, main a.link");
  return [...all].flatMap((element) => {
    const name = (element.getAttribute("aria-label") ?? element.textContent).replace(/\s+/g, " ").trim();
    const isShown = element.offsetParent !== null || element.closest(".dropdown-menu");
    if (!name || name.length > 60 || element.disabled || !isShown || known.has(name)) return [];
    known.add(name);
    return [{ name, element, key: KEYS[element.id] ?? "" }];
  });
}

function narrow(text) {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (name) => words.every((word) => name.toLowerCase().includes(word));
  const list = dialog().querySelector(".action-list");
  list.replaceChildren(
    ...actions.filter(({ name }) => fits(name)).slice(0, 40).map((action) => {
      const item = document.createElement("li");
      const button = document.createElement("button");
      button.type = "button";
      button.className = "action";
      button.textContent = action.name;
      if (action.key) {
        const key = document.createElement("kbd");
        key.textContent = action.key;
        button.append(" ", key);
      }
      button.addEventListener("click", () => perform(action));
      item.append(button);
      return item;
    }),
  );
  for (const line of dialog().querySelectorAll(".key-list > div")) line.hidden = !fits(line.textContent);
  for (const part of dialog().querySelectorAll(".key-areas section")) {
    part.hidden = ![...part.querySelectorAll("li, .key-list > div")].some((one) => !one.hidden);
  }
}

function perform({ element }) {
  dialog().close();
  element.click();
}

document.addEventListener("input", ({ target }) => target.id === "find-action" && narrow(target.value));
document.addEventListener("keydown", (event) => {
  if (event.target.id !== "find-action" || event.key !== "Enter") return;
  event.preventDefault();
  dialog().querySelector(".action")?.click();
});
