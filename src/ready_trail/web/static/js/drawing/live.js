// The sheet that is on the page, and what of it is kept at hand.

const ZOOM = 1.25;
const REPLAY_MS = 900;
const CLICK_PX = 4;
let live = null;

const start = () => {
  const root = document.getElementById("live");
  if (!root || root.dataset.started) return;
  root.dataset.started = "yes";
  live = {
    root,
    svg: document.getElementById("sheet"),
    head: document.getElementById("names-head"),
    map: document.getElementById("sheet-map"),
    view: document.getElementById("sheet-view"),
    cards: document.getElementById("row-cards"),
    form: document.getElementById("controls"),
    faults: [],
    blown: [],
    red: null,
    black: { node: "0", name: "BAT −" },
    clamp: null,
    next: "red",
    history: [],
    steps: null,
    step: -1,
    asked: 0,
    box: null,
    side: "",
    piece: null,
    state: JSON.parse(root.dataset.state),
  };
  root.classList.add("has-rail");
  live.names = [...live.svg.querySelectorAll(".row-name")];
  gather();
  const params = new URLSearchParams(location.search);
  live.faults = params.getAll("fault");
  live.blown = params.getAll("blown");
  live.full = { x: 0, y: 0, w: Number(live.svg.dataset.width), h: Number(live.svg.dataset.height) };
  live.box = { ...live.full };
  paint(live.state);
  fitFirst();
  if (root.dataset.picked) pick(root.dataset.picked, true);
  let wide = live.view.clientWidth;
  new ResizeObserver(() => {
    const now = live.view.clientWidth;
    if (now) show({ ...live.box, w: wide ? (live.box.w * now) / wide : live.box.w });
    wide = now || wide;
  }).observe(live.view);
  if (matchMedia("(max-width: 700px)").matches) dealCards();
};
// Pieces stand on the sheet, and once more on the cards that a phone shows.
const every = (what) => [...live.svg.querySelectorAll(what), ...live.cards.querySelectorAll(what)];
const gather = () => {
  live.wires = every(".sheet-wire").map((wire) => ({ wire, glow: wire.querySelector(".wire-glow"), label: wire.dataset.wire, amps: 0 }));
  live.devices = every(".sheet-device");
  live.bars = [...live.svg.querySelectorAll(".sheet-bar")]
    .map((group) => ({ group, name: group.dataset.name, x: Number(group.querySelector(".bar-line").getAttribute("d").match(/^M(-?[\d.]+)/)[1]) }))
    .sort((a, b) => a.x - b.x);
};
