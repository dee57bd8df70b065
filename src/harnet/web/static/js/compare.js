// Two pictures under one glass: both canvases show the same place at the same size. Tiles come
// from the server; only those on screen are asked for.
const view = document.querySelector("#compare");
const state = { x: 0.5, y: 0.5, zoom: "fit", layout: "beside", wipe: 0.5 };
const MOST_ZOOM = 8;

if (view) start();

async function start() {
  const canvases = [...view.querySelectorAll("canvas")];
  let sides;
  try {
    sides = await Promise.all(
      [view.dataset.one, view.dataset.other].map(async (address, index) => ({
        ...(await ready(address)),
        canvas: canvases[index],
        tiles: new Map(),
      })),
    );
  } catch (error) {
    view.querySelector(".getting-ready").textContent = error.message;
    return;
  }
  view.querySelector(".getting-ready").remove();
  listen(sides);
  new ResizeObserver(() => draw(sides)).observe(view.querySelector(".looks"));
  draw(sides);
}

async function ready(address) {
  for (let asked = ""; ; asked = "?asked=1") {
    const response = await fetch(address + asked, { headers: { Accept: "application/json" } });
    const answer = await response.json();
    if (answer.levels) return answer;
    if (!answer.waits) throw new Error(answer.failure ?? "The pixels cannot be shown.");
    await new Promise((resolve) => setTimeout(resolve, 600));
  }
}

// Screen pixels for one pixel of the first picture.
function zoomOf(sides) {
  const [width, height] = sides[0].levels[0];
  const room = sides[0].canvas.getBoundingClientRect();
  const fit = Math.min(room.width / width, room.height / height);
  return state.zoom === "fit" ? fit : Math.max(Math.min(fit, 1), Math.min(MOST_ZOOM, state.zoom));
}

function draw(sides) {
  const zoom = zoomOf(sides);
  const [width, height] = sides[0].levels[0];
  const room = sides[0].canvas.getBoundingClientRect();
  const halfX = Math.min(0.5, room.width / (2 * width * zoom));
  const halfY = Math.min(0.5, room.height / (2 * height * zoom));
  state.x = Math.min(1 - halfX, Math.max(halfX, state.x));
  state.y = Math.min(1 - halfY, Math.max(halfY, state.y));
  let isWhole = true;
  sides.forEach((side, index) => {
    isWhole = drawSide(side, zoom * width, zoom * height, sides) && isWhole;
    const own = (zoom * width) / side.levels[0][0];
    view.querySelectorAll("[data-zoom-of]")[index].textContent = `${Math.round(own * 100)} %`;
  });
  sides[1].canvas.style.clipPath =
    state.layout === "wipe" ? `inset(0 0 0 ${state.wipe * 100}%)` : "";
  view.querySelector(".looks").setAttribute("aria-busy", String(!isWhole));
}

// Says whether every tile was there.
function drawSide(side, drawnW, drawnH, sides) {
  const { canvas, levels, tile } = side;
  const ratio = window.devicePixelRatio;
  const room = canvas.getBoundingClientRect();
  canvas.width = Math.round(room.width * ratio);
  canvas.height = Math.round(room.height * ratio);
  const pen = canvas.getContext("2d");
  const left = canvas.width / 2 - state.x * drawnW * ratio;
  const top = canvas.height / 2 - state.y * drawnH * ratio;
  // The smallest level that still has a pixel for every pixel of the screen.
  let level = 0;
  while (level + 1 < levels.length && levels[level + 1][0] >= drawnW * ratio) level += 1;
  const [width, height] = levels[level];
  const scaleX = (drawnW * ratio) / width;
  const scaleY = (drawnH * ratio) / height;
  pen.imageSmoothingEnabled = scaleX < 1;
  pen.imageSmoothingQuality = "high";
  let isWhole = true;
  const first = (start, scale) => Math.max(0, Math.floor(-start / scale / tile));
  const last = (start, scale, size, edge) =>
    Math.min(Math.ceil(size / tile) - 1, Math.floor((edge - start) / scale / tile));
  for (let row = first(top, scaleY); row <= last(top, scaleY, height, canvas.height); row += 1) {
    for (let column = first(left, scaleX); column <= last(left, scaleX, width, canvas.width); column += 1) {
      const image = tileOf(side, level, column, row, () => draw(sides));
      isWhole &&= image.complete;
      if (!image.complete || !image.naturalWidth) continue;
      const x = Math.round(left + column * tile * scaleX);
      const y = Math.round(top + row * tile * scaleY);
      const right = Math.round(left + (column * tile + image.naturalWidth) * scaleX);
      const bottom = Math.round(top + (row * tile + image.naturalHeight) * scaleY);
      pen.drawImage(image, x, y, right - x, bottom - y);
    }
  }
  return isWhole;
}

function tileOf(side, level, column, row, whenThere) {
  const key = `${level}/${column}/${row}`;
  if (!side.tiles.has(key)) {
    const image = new Image();
    image.addEventListener("load", whenThere);
    image.src = `${side.address}/${key}`;
    side.tiles.set(key, image);
  }
  return side.tiles.get(key);
}

function listen(sides) {
  for (const button of document.querySelectorAll(".compare-bar button")) button.disabled = false;
  const looks = view.querySelector(".looks");
  const wipe = view.querySelector(".wipe");
  const zoomTo = (zoom) => {
    state.zoom = zoom;
    for (const button of document.querySelectorAll("[data-zoom]")) {
      button.classList.toggle("on", button.dataset.zoom === String(zoom === "fit" ? zoom : zoom * 100));
    }
    draw(sides);
  };
  const step = (by) => {
    const next = zoomOf(sides) * by;
    const [width, height] = sides[0].levels[0];
    const room = sides[0].canvas.getBoundingClientRect();
    zoomTo(next <= Math.min(room.width / width, room.height / height) ? "fit" : Math.min(MOST_ZOOM, next));
  };
  const move = (dx, dy) => {
    const [width, height] = sides[0].levels[0];
    state.x -= dx / (width * zoomOf(sides));
    state.y -= dy / (height * zoomOf(sides));
    draw(sides);
  };
  for (const button of document.querySelectorAll("[data-zoom]")) {
    button.addEventListener("click", () =>
      zoomTo(button.dataset.zoom === "fit" ? "fit" : Number(button.dataset.zoom) / 100),
    );
  }
  for (const button of document.querySelectorAll("button[data-layout]")) {
    button.addEventListener("click", () => {
      state.layout = view.dataset.layout = button.dataset.layout;
      wipe.hidden = state.layout !== "wipe";
      for (const one of document.querySelectorAll("button[data-layout]")) {
        one.classList.toggle("on", one === button);
      }
      draw(sides);
    });
  }
  wipe.addEventListener("input", () => {
    state.wipe = wipe.value / 1000;
    draw(sides);
  });
  looks.addEventListener("wheel", (event) => {
    event.preventDefault();
    step(event.deltaY < 0 ? 1.25 : 0.8);
  }, { passive: false });
  looks.addEventListener("pointermove", (event) => {
    if (event.buttons === 1 && event.target !== wipe) move(event.movementX, event.movementY);
  });
  looks.addEventListener("pointerdown", (event) => {
    if (event.target.tagName === "CANVAS") event.target.setPointerCapture(event.pointerId);
  });
  looks.addEventListener("keydown", (event) => {
    if (event.target === wipe) return;
    const ways = { ArrowLeft: [60, 0], ArrowRight: [-60, 0], ArrowUp: [0, 60], ArrowDown: [0, -60] };
    if (ways[event.key]) move(...ways[event.key]);
    else if (event.key === "+") step(1.25);
    else if (event.key === "-") step(0.8);
    else return;
    event.preventDefault();
  });
}
