// The sheet that is on the page, and what of it is kept at hand.

const ZOOM = 1.25;
const REPLAY_MS = 900;
const CLICK_PX = 4;
const HEAD_PX = 74;
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
    state: JSON.parse(root.dataset.state),
  };
  live.wires = [...live.svg.querySelectorAll(".sheet-wire")].map((wire) => ({ wire, glow: wire.querySelector(".wire-glow"), label: wire.dataset.wire, amps: 0 }));
  live.devices = [...live.svg.querySelectorAll(".sheet-device")];
  const params = new URLSearchParams(location.search);
  live.faults = params.getAll("fault");
  live.blown = params.getAll("blown");
  const width = Number(live.svg.dataset.width);
  live.full = { x: 0, y: 0, w: width, h: Number(live.svg.dataset.height) };
  paint(live.state);
  fitFirst();
  if (root.dataset.picked) pick(root.dataset.picked, true);
  new ResizeObserver(() => show(live.box)).observe(live.view);
};
