// Files go up three at a time, each with its own bar and its own sentence.
let underway = 0;
window.addEventListener("beforeunload", (event) => underway > 0 && event.preventDefault());

const drop = () => document.querySelector("#drop");

document.addEventListener("change", (event) => {
  if (event.target.id === "files") takeIn([...event.target.files]);
});
for (const name of ["dragover", "dragleave", "drop"]) {
  document.addEventListener(name, (event) => {
    if (!drop() || !event.dataTransfer?.types.includes("Files")) return;
    event.preventDefault();
    drop().classList.toggle("over", name === "dragover");
    if (name === "drop") takeIn([...event.dataTransfer.files]);
  });
}

// A picture from the clipboard has no name worth keeping; the time tells it from the next one.
document.addEventListener("paste", (event) => {
  if (!drop() || event.target.matches?.("input, textarea")) return;
  const files = [...(event.clipboardData?.files ?? [])];
  if (!files.length) return;
  event.preventDefault();
  const now = new Date().toTimeString().slice(0, 8).replaceAll(":", "-");
  takeIn(files.map((file) => {
    const ending = file.type.split("/")[1]?.replace("svg+xml", "svg") ?? "png";
    const isNamed = file.name && !/^image\.\w+$/.test(file.name);
    return isNamed ? file : new File([file], `pasted ${now}.${ending}`, { type: file.type });
  }));
});

const FEW = 8;

// Of few files each keeps its line. Of many only those on their way and those refused have one, so
// that the wall below stays in sight.
async function takeIn(files) {
  const list = document.querySelector("#uploads");
  const sum = document.createElement("p");
  sum.className = "upload-sum";
  list.replaceChildren(sum);
  const counts = { added: 0, known: 0, refused: 0 };
  const isMany = files.length > FEW;
  const tell = () => {
    const done = counts.added + counts.known + counts.refused;
    if (files.length > 1 && done < files.length) {
      const bar = document.createElement("progress");
      bar.max = files.length;
      bar.value = done;
      sum.replaceChildren(bar, ` ${done} of ${files.length}`);
      return;
    }
    const parts = [`${counts.added} added`];
    if (counts.known) parts.push(`${counts.known} on the shelf already`);
    if (counts.refused) parts.push(`${counts.refused} refused, none saved`);
    sum.textContent = done === files.length ? parts.join(" · ") : "";
  };
  const rows = files.map((file) => {
    const row = document.createElement("div");
    row.className = "upload";
    const bar = document.createElement("progress");
    bar.max = 1;
    bar.value = 0;
    const name = document.createElement("b");
    name.textContent = file.name;
    const said = document.createElement("span");
    said.className = "sub";
    said.textContent = "waiting";
    row.append(name, bar, said);
    if (!isMany) list.append(row);
    return { file, row, bar, said };
  });
  // Three at a time, and the page says so before it is left while some are on their way.
  const waiting = [...rows];
  underway += rows.length;
  const work = async () => {
    for (let one = waiting.shift(); one; one = waiting.shift()) {
      if (isMany) list.append(one.row);
      const end = await send(one);
      counts[end] += 1;
      underway -= 1;
      if (isMany && end !== "refused") one.row.remove();
      tell();
    }
  };
  tell();
  await Promise.all([work(), work(), work()]);
}

function send({ file, row, bar, said }) {
  const form = new FormData();
  form.append("file", file);
  const onto = document.querySelector("#onto")?.value;
  if (onto) form.append("shelf", onto);
  const request = new XMLHttpRequest();
  request.open("POST", drop().dataset.upload);
  request.setRequestHeader("X-CSRFToken", drop().dataset.token);
  request.setRequestHeader("Accept", "application/json");
  request.responseType = "json";
  request.upload.addEventListener("progress", (event) => {
    bar.value = event.loaded / event.total;
    said.textContent = event.loaded === event.total ? "being read" : "on its way";
  });
  return new Promise((resolve) => {
    request.addEventListener("loadend", () => {
      bar.remove();
      const answer = request.response;
      if (request.status !== 200) {
        row.classList.add("refused");
        said.textContent = answer?.failure ?? `${file.name} could not be sent; try it again.`;
        resolve("refused");
        return;
      }
      if (answer.address) {
        const link = document.createElement("a");
        link.href = answer.address;
        link.textContent = "is being read; see it";
        said.replaceChildren(link);
        if (document.querySelector("#document-rows")) {
          window.htmx.ajax("GET", drop().dataset.list, "#document-rows");
        }
        resolve("added");
        return;
      }
      said.textContent = answer.is_known ? `is on the shelf already as ${answer.name}` : "added";
      if (!answer.is_known) {
        document.querySelector("#wall").insertAdjacentHTML("afterbegin", answer.tile);
        document.querySelector("#no-pictures")?.remove();
        const total = document.querySelector("#total");
        if (total) total.textContent = `${answer.total} ${answer.total === 1 ? "picture" : "pictures"}`;
      }
      resolve(answer.is_known ? "known" : "added");
    });
    request.send(form);
  });
}
