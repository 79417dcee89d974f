// Where one is: the part of the sheet that shows, zoomed and moved; what stays in sight of it.

const HEAD_PX = 36;
const HEAD_ROW_PX = 12;
const LETTER = 10;
const LEAST_PX = 11;
const TITLE_PX = 8;

const ratio = () => {
  const at = live.view.getBoundingClientRect();
  return at.height / Math.max(1, at.width);
};
const scale = () => live.view.clientWidth / live.box.w;
const titleX = () => Math.max(Number(live.svg.dataset.names), live.box.x + TITLE_PX / scale());
const show = (box) => {
  if (!live || !box || !live.view.clientWidth) return;
  const least = 300;
  const w = Math.min(Math.max(box.w, least), Math.max(live.full.w, live.full.h / ratio()) * 1.05);
  const h = w * ratio();
  const px = live.view.clientWidth / w;
  const top = Number(live.svg.dataset.top) - HEAD_PX / px - 4;
  const x = Math.min(Math.max(box.x, -20), Math.max(live.full.w - w + 20, -20));
  const y = Math.min(Math.max(box.y, top), Math.max(live.full.h - h + 20, top));
  live.box = { x, y, w, h };
  live.svg.setAttribute("viewBox", `${x} ${y} ${w} ${h}`);
  for (const name of live.names) name.setAttribute("x", titleX());
  heads();
  const mark = document.getElementById("map-view");
  for (const [name, value] of [["x", x], ["y", y], ["width", w], ["height", h]]) mark.setAttribute(name, value);
};
// Names of the bars in a head of their own: in rows, each with a line down to its bar.
const heads = () => {
  const wide = live.view.clientWidth;
  const ends = [0, 0, 0];
  const said = [];
  for (const bar of live.bars) {
    const at = (bar.x - live.box.x) * scale();
    if (at < 0 || at > wide) continue;
    const text = bar.group.classList.contains("is-hot") ? `${bar.name} · live` : bar.name;
    const long = text.length * 6.4 + 8;
    const left = Math.max(2, Math.min(at - 6, wide - long - 2));
    const row = ends.findIndex((end) => end <= left);
    if (row < 0) continue;
    ends[row] = left + long;
    said.push({ at, left, row, text, hot: bar.group.classList.contains("is-hot") });
  }
  live.head.replaceChildren(
    ...said.flatMap(({ at, left, row, text, hot }) => {
      const name = document.createElement("span");
      name.textContent = text;
      name.className = hot ? "head-name is-hot" : "head-name";
      name.style.left = `${left}px`;
      name.style.top = `${row * HEAD_ROW_PX + 1}px`;
      const lead = document.createElement("i");
      lead.style.left = `${at}px`;
      lead.style.top = `${row * HEAD_ROW_PX + 11}px`;
      return [lead, name];
    }),
  );
};
// As it opens: letters that read, on the row that matters.
const firstRow = (rows) =>
  rows.find((row) => row.dataset.state === "stop") || rows.find((row) => row.dataset.owner !== "feeders") || rows[0];
const fitFirst = () => {
  const wide = Math.min((live.view.clientWidth * LETTER) / LEAST_PX, live.full.w + 20);
  const row = firstRow([...live.svg.querySelectorAll(".row-group")]);
  const y = row ? Number(row.querySelector("rect").getAttribute("y")) : 0;
  const x = live.full.w <= wide ? 0 : Math.min(Number(live.svg.dataset.names) - 24, live.full.w - wide);
  show({ x, y: y - (HEAD_PX + 4) / (live.view.clientWidth / wide), w: wide, h: 0 });
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

// What stands beside the sheet: opened by a piece, by a fault, or from the rail.
const beside = (part) => {
  live.root.classList.toggle("has-side", Boolean(part));
  for (const key of document.querySelectorAll(".rail-key")) key.setAttribute("aria-expanded", String(key.dataset.side === part));
  live.side = part || "";
  const into = part ? document.getElementById(part) : null;
  if (into) into.scrollIntoView({ block: "start" });
};
