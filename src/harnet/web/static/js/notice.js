// One place for sentences that appear after something was refused.
export function say(sentence) {
  const box = document.createElement("div");
  box.className = "notice";
  box.setAttribute("role", "alert");
  const text = document.createElement("span");
  text.textContent = sentence;
  const close = document.createElement("button");
  close.type = "button";
  close.className = "btn-close";
  close.dataset.closeNotice = "";
  close.setAttribute("aria-label", "Close this notice");
  box.append(text, close);
  document.querySelector("#notice").replaceChildren(box);
}
