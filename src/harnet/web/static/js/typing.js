// What is being typed stays when an answer replaces the form around it, and so does the keyboard's place.
let typed = null; // the text field that no request has been asked about yet
let kept = null; // what it held when an answer came
let returned = null; // the field it was put back into, whose change the browser no longer notices

// Taken out of the page, a field says that it was changed; what is half typed is asked about later.
for (const name of ["change", "focusout"]) {
  window.addEventListener(name, (event) => event.target === kept?.field && event.stopPropagation(), true);
}

document.addEventListener("input", ({ target }) => {
  if (target.matches("input:not([type=checkbox], [type=radio]), textarea")) typed = target;
  returned = null;
});
document.addEventListener("change", ({ target }) => {
  if (target === typed) typed = null;
  if (target === returned) returned = null;
}, true);

const tellOf = ({ target }) => {
  if (target === returned) target.dispatchEvent(new Event("change", { bubbles: true }));
};
document.addEventListener("focusout", tellOf);
document.addEventListener("keydown", (event) => event.key === "Enter" && tellOf(event));

document.addEventListener("htmx:beforeSwap", ({ detail }) => {
  const field = document.activeElement;
  kept = null;
  if (!detail.shouldSwap || !field.form || !field.name || !detail.target.contains(field)) return;
  const isTyped = field === typed;
  // Only forms that mirror their own figures take the keyboard back; others hand it to the page.
  if (!isTyped && !field.form.matches("[hx-get][hx-trigger*=change]")) return;
  kept = { field, isTyped, form: identity(field.form), value: field.value };
  if (field.matches("[type=text], [type=search], :not([type])")) {
    kept.selection = [field.selectionStart, field.selectionEnd];
  }
});

document.addEventListener("htmx:afterSwap", () => {
  const before = kept;
  kept = null;
  if (!before || before.field.isConnected) return;
  const { field, form, isTyped, value, selection } = before;
  const same = [...document.querySelectorAll(`[name="${field.name}"]`)].filter(
    (one) => one.form && identity(one.form) === form && (one.type !== "radio" || one.value === value),
  );
  if (same.length !== 1) return;
  const [now] = same;
  const differs = isTyped && now.value !== value;
  if (differs) now.value = value;
  now.focus({ preventScroll: true });
  if (selection && now.setSelectionRange) now.setSelectionRange(...selection);
  if (!differs) return;
  typed = returned = now;
  if (now.form.getAttribute("hx-trigger")?.includes("input")) askAfterSettling(now.form);
});
document.addEventListener("htmx:swapError", () => (kept = null));

// Which form this is, of what: one of another placement has the same fields and is another.
const identity = (form) =>
  [form.getAttribute("hx-get") ?? form.getAttribute("hx-post"), form.elements.items?.value].join(" ");

const askAfterSettling = (form) =>
  document.addEventListener("htmx:afterSettle", () => form.dispatchEvent(new Event("change")), { once: true });
