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

// Fields that were left while an answer was on its way are asked about with the next request.
let unsent = [];
function unsentOf(form, { parameters } = {}) {
  const sent = (name) => parameters?.get?.(name) ?? parameters?.[name];
  const fields = [...form.elements].filter(
    (field) =>
      field.matches("input:not([type=hidden], [type=checkbox], [type=radio], [type=file]), textarea") &&
      field !== document.activeElement &&
      field.value !== field.defaultValue &&
      sent(field.name) !== field.value,
  );
  return { form: identity(form), values: fields.map(({ name, value }) => [name, value]) };
}

document.addEventListener("htmx:beforeSwap", ({ detail }) => {
  const field = document.activeElement;
  kept = null;
  unsent = detail.shouldSwap
    ? [...detail.target.querySelectorAll("form[hx-post][hx-trigger*=change]")]
        .map((form) => unsentOf(form, detail.requestConfig))
        .filter(({ values }) => values.length)
    : [];
  if (!detail.shouldSwap || !field.form || !field.name || !detail.target.contains(field)) return;
  const isTyped = field === typed;
  // Only forms that apply what is left take the keyboard back; others hand it to the page.
  if (!isTyped && !field.form.matches("[hx-trigger*=change]")) return;
  kept = { field, isTyped, form: identity(field.form), value: field.value };
  if (field.matches("[type=text], [type=search], :not([type])")) {
    kept.selection = [field.selectionStart, field.selectionEnd];
  }
});

document.addEventListener("htmx:afterSwap", () => {
  const left = unsent;
  unsent = [];
  for (const { form, values } of left) {
    const same = [...document.querySelectorAll("form[hx-post]")].find((one) => identity(one) === form);
    const changed = values.filter(([name, value]) => same?.elements[name] && same.elements[name].value !== value);
    for (const [name, value] of changed) same.elements[name].value = value;
    if (changed.length) askAfterSettling(same);
  }
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
const identity = (form) => {
  const items = form.elements.items?.value.replace(/:\d+/g, "");
  return [form.getAttribute("hx-get") ?? form.getAttribute("hx-post"), items].join(" ");
};

// Enter applies a field as leaving it does, and hands the keyboard back to the page.
document.addEventListener("keydown", (event) => {
  const isOne = event.target.matches("input") && event.target.form?.matches("[hx-post][hx-trigger*=change]");
  if (event.key !== "Enter" || !isOne) return;
  event.preventDefault();
  event.target.blur();
});

/** Applies what is typed and not applied yet; a press on the page does not leave a field by itself. */
export function applyTyped() {
  const field = typed;
  if (!field?.isConnected || !field.form?.matches("[hx-post][hx-trigger*=change]")) return null;
  const address = field.form.getAttribute("hx-post");
  return new Promise((done) => {
    const answered = ({ detail }) => {
      if (detail.pathInfo.requestPath !== address) return;
      document.removeEventListener("htmx:afterRequest", answered);
      done();
    };
    document.addEventListener("htmx:afterRequest", answered);
    field.blur();
  });
}

const askAfterSettling = (form) =>
  document.addEventListener("htmx:afterSettle", () => form.dispatchEvent(new Event("change")), { once: true });
