// Hands on the page and on the sheet: presses, drags, pinches, wheels, keys.

document.addEventListener("DOMContentLoaded", start);
document.addEventListener("htmx:afterSwap", start);
document.addEventListener("htmx:after:swap", start);

document.addEventListener("change", (event) => {
  if (!live || !live.root.contains(event.target)) return;
  const { form } = live;
  if (event.target.id === "find-part") find(event.target.value);
  else if (event.target.id === "scenario") {
    const { value, selectedOptions } = event.target;
    if (value === "rest") put({ key: "off", lights: "off", on: [], signal: [] });
    else if (value) put({ signal: [], ...JSON.parse(selectedOptions[0].dataset.scenario) });
  } else if (event.target.form === form) {
    const engine = form.elements.engine;
    if (event.target === engine && engine.checked) form.querySelector("input[name=key][value=run]").checked = true;
    if (event.target.name === "key" && event.target.value !== "run") engine.checked = false;
    const sides = event.target.dataset.ref ? form.querySelectorAll(`input[data-ref="${CSS.escape(event.target.dataset.ref)}"]`) : [];
    for (const side of sides) if (side !== event.target && event.target.checked) side.checked = false;
    refresh();
  } else if (event.target.name === "meter") measure();
});
document.addEventListener("submit", (event) => {
  if (live && event.target === live.form) {
    event.preventDefault();
    if (document.activeElement.id !== "find-part") refresh();
  }
});
document.addEventListener("click", (event) => {
  if (!live || !live.root.isConnected || !event.target.closest) return;
  const press = event.target.closest("[data-zoom],[data-side],[data-fault],[data-probe],[data-clamp],[data-pick],[data-work],#touch,#mend,#let-open,#keep-reading,#replay,#truth-next");
  if (!press || !live.root.contains(press)) {
    if (live.cards.contains(event.target)) pressOn(event.target);
    return;
  }
  const { dataset, id } = press;
  if (dataset.zoom === "in") zoom(ZOOM);
  else if (dataset.zoom === "out") zoom(1 / ZOOM);
  else if (dataset.zoom === "fit") fit();
  else if (dataset.zoom === "rows") showCards(!hasCards());
  else if (dataset.side) beside(dataset.side === live.side ? "" : dataset.side);
  else if (dataset.fault) {
    if (!live.faults.includes(dataset.fault)) live.faults.push(dataset.fault);
    refresh();
  } else if (dataset.probe) probe(dataset.probe, dataset.name);
  else if (dataset.clamp) clamp(dataset.clamp);
  else if (dataset.pick) {
    event.preventDefault();
    pick(dataset.pick, true);
  } else if (dataset.work) work(dataset.work);
  else if (id === "touch") {
    live.faults.push(`touch:${live.red.node}:${live.black.node}`);
    refresh();
  } else if (id === "mend") {
    live.faults = [];
    live.blown = [];
    refresh();
  } else if (id === "let-open") {
    live.blown.push(live.state.first);
    refresh();
  } else if (id === "keep-reading") note();
  else if (id === "replay") replay();
  else if (id === "truth-next") nextTruth();
});

// Hands on the sheet
let drag = null;
const pointers = new Map();
document.addEventListener("pointerdown", (event) => {
  if (!live || !live.view.contains(event.target) || event.button !== 0) return;
  pointers.set(event.pointerId, event);
  if (live.map.contains(event.target)) {
    const spot = at(event, live.map);
    centre(spot.x, spot.y);
    return;
  }
  drag = { x: event.clientX, y: event.clientY, box: { ...live.box }, moved: false, target: event.target };
});
document.addEventListener("pointermove", (event) => {
  if (!live || !pointers.has(event.pointerId)) return;
  const before = pointers.get(event.pointerId);
  if (pointers.size === 2) {
    const [a, b] = [...pointers.values()];
    const was = Math.hypot(a.clientX - b.clientX, a.clientY - b.clientY);
    pointers.set(event.pointerId, event);
    const [c, d] = [...pointers.values()];
    const now = Math.hypot(c.clientX - d.clientX, c.clientY - d.clientY);
    if (was > 0) zoom(now / was);
    drag = null;
    return;
  }
  pointers.set(event.pointerId, event);
  if (!drag || !before) return;
  const dx = event.clientX - drag.x;
  const dy = event.clientY - drag.y;
  if (Math.hypot(dx, dy) > CLICK_PX) drag.moved = true;
  if (!drag.moved) return;
  const px = live.box.w / live.view.clientWidth;
  show({ ...drag.box, x: drag.box.x - dx * px, y: drag.box.y - dy * px });
});
const lift = (event) => {
  pointers.delete(event.pointerId);
  if (!drag) return;
  const { moved, target } = drag;
  drag = null;
  if (moved || event.type === "pointercancel") return;
  pressOn(target);
};
const pressOn = (target) => {
  const spot = target.closest(".probe-spot");
  const part = target.closest(".sheet-wire, .sheet-device, .sheet-bar");
  if (spot) {
    if (!live.side) beside("meter-part");
    probe(spot.dataset.node, spot.dataset.name);
  } else if (part) {
    const ref = part.dataset.wire || part.dataset.ref;
    if (part.classList.contains("device-switch")) work(ref);
    pick(ref, false);
  }
};
document.addEventListener("pointerup", lift);
document.addEventListener("pointercancel", lift);
document.addEventListener("wheel", (event) => {
  if (!live || !live.view.contains(event.target)) return;
  event.preventDefault();
  if (event.ctrlKey || event.metaKey || event.altKey) {
    const spot = at(event, live.svg);
    zoom(event.deltaY < 0 ? 1.12 : 1 / 1.12, spot.x, spot.y);
  } else {
    const px = live.box.w / live.view.clientWidth;
    show({ ...live.box, x: live.box.x + event.deltaX * px, y: live.box.y + event.deltaY * px });
  }
}, { passive: false });
document.addEventListener("keydown", (event) => {
  if (!live || event.target !== live.view || event.ctrlKey || event.metaKey || event.altKey) return;
  if (sheetKey(event)) event.preventDefault();
});
document.addEventListener("keydown", (event) => {
  if (!live || event.target !== live.cards || (event.key !== "ArrowLeft" && event.key !== "ArrowRight")) return;
  nextCard(event.key === "ArrowRight" ? 1 : -1);
  event.preventDefault();
});
