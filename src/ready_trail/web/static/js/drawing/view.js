// Where one is: the part of the sheet that shows, zoomed and moved.

const ratio = () => {
  const at = live.view.getBoundingClientRect();
  return at.height / Math.max(1, at.width);
};
const fitFirst = () => show({ x: 0, y: 0, w: live.full.w, h: live.full.w * ratio() });
const show = (box) => {
  if (!live || !box) return;
  const least = 300;
  const w = Math.min(Math.max(box.w, least), Math.max(live.full.w, live.full.h / ratio()) * 1.05);
  const h = w * ratio();
  const x = Math.min(Math.max(box.x, -40), Math.max(live.full.w - w + 40, -40));
  const y = Math.min(Math.max(box.y, -20), Math.max(live.full.h - h + 20, -20));
  live.box = { x, y, w, h };
  live.svg.setAttribute("viewBox", `${x} ${y} ${w} ${h}`);
  const top = Number(live.svg.dataset.top);
  const px = live.view.clientWidth / w;
  const tall = y <= 0 ? top : Math.min(top, HEAD_PX / px);
  live.head.setAttribute("viewBox", `${x} ${top - tall} ${w} ${tall}`);
  live.head.setAttribute("width", live.view.clientWidth);
  live.head.setAttribute("height", tall * px);
  live.head.classList.toggle("is-away", y <= 0);
  const mark = document.getElementById("map-view");
  mark.setAttribute("x", x);
  mark.setAttribute("y", y);
  mark.setAttribute("width", w);
  mark.setAttribute("height", h);
};
const zoom = (factor, cx, cy) => {
  const { x, y, w, h } = live.box;
  const px = cx === undefined ? x + w / 2 : cx;
  const py = cy === undefined ? y + h / 2 : cy;
  show({ x: px - (px - x) / factor, y: py - (py - y) / factor, w: w / factor, h: h / factor });
};
const fit = () => show({ x: 0, y: 0, w: Math.max(live.full.w, live.full.h / ratio()), h: 0 });
const centre = (x, y, w) => {
  const wide = w || live.box.w;
  show({ x: x - wide / 2, y: y - (wide * ratio()) / 2, w: wide, h: 0 });
};
const at = (event, svg) =>
  new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
