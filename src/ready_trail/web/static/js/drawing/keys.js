// From piece to piece by the keyboard: rows from top to bottom, pieces from left to right.

const pieces = () => {
  if (live.order) return live.order;
  const rows = [...live.svg.querySelectorAll(".row-ground")].map((ground) => Number(ground.getAttribute("y")));
  const placed = [...live.svg.querySelectorAll(".sheet-device, .sheet-wire")].map((piece) => {
    const box = piece.getBBox();
    const moved = piece.transform.baseVal.consolidate();
    const x = box.x + box.width / 2 + (moved ? moved.matrix.e : 0);
    const y = box.y + box.height / 2 + (moved ? moved.matrix.f : 0);
    return { piece, x, y, row: rows.filter((top) => top <= y).length };
  });
  live.order = placed.sort((a, b) => a.row - b.row || Math.round((a.y - b.y) / 40) || a.x - b.x);
  return live.order;
};
const walk = (key) => {
  const list = pieces();
  const now = list.findIndex((item) => item.piece === live.piece);
  let next = 0;
  if (now < 0) next = list.findIndex((item) => item.y > live.box.y + 40 && item.x > live.box.x);
  else if (key === "ArrowLeft") next = now - 1;
  else if (key === "ArrowRight") next = now + 1;
  else {
    const way = key === "ArrowDown" ? 1 : -1;
    const rows = [...new Set(list.map((item) => item.row))];
    const row = rows[rows.indexOf(list[now].row) + way];
    const there = list.filter((item) => item.row === row);
    const nearest = there.sort((a, b) => Math.abs(a.x - list[now].x) - Math.abs(b.x - list[now].x))[0];
    next = nearest ? list.indexOf(nearest) : now;
  }
  const item = list[Math.min(list.length - 1, Math.max(0, next))];
  if (!item) return;
  if (live.piece) live.piece.classList.remove("is-at");
  live.piece = item.piece;
  item.piece.classList.add("is-at");
  document.getElementById("piece-words").textContent = item.piece.querySelector("title").textContent;
  const { x, y, w, h } = live.box;
  const edge = 60;
  if (item.x < x + edge || item.x > x + w - edge || item.y < y + edge || item.y > y + h - edge) centre(item.x, item.y);
};
// A press of R or B goes on to the piece's next terminal.
const probePiece = (colour) => {
  const ref = live.piece ? live.piece.dataset.ref : "";
  const spots = [...live.svg.querySelectorAll(".probe-spot")].filter((spot) => ref && spot.dataset.name.startsWith(`${ref} `));
  if (!spots.length) {
    say("Enter opens this piece: its ends can be probed there.");
    return;
  }
  const held = live[colour] ? spots.findIndex((spot) => spot.dataset.name === live[colour].name) : -1;
  const spot = spots[(held + 1) % spots.length];
  live.next = colour;
  probe(spot.dataset.node, spot.dataset.name);
  if (!live.side) beside("meter-part");
  document.getElementById("piece-words").textContent = `${colour} probe on ${spot.dataset.name}`;
};
const sheetKey = (event) => {
  const { key } = event;
  if (key.startsWith("Arrow") && event.shiftKey) {
    const step = live.box.w / 12;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[key];
    show({ ...live.box, x: live.box.x + by[0], y: live.box.y + by[1] });
  } else if (key.startsWith("Arrow")) walk(key);
  else if (key === "PageDown" || key === "PageUp") show({ ...live.box, y: live.box.y + live.box.h * (key === "PageDown" ? 0.8 : -0.8) });
  else if (key === "Enter" && live.piece) pick(live.piece.dataset.wire || live.piece.dataset.ref, false);
  else if (key === " " && live.piece) {
    if (!work(live.piece.dataset.ref || "")) pick(live.piece.dataset.wire || live.piece.dataset.ref, false);
  } else if (key === "r" || key === "R") probePiece("red");
  else if (key === "b" || key === "B") probePiece("black");
  else if (key === "+" || key === "=") zoom(ZOOM);
  else if (key === "-") zoom(1 / ZOOM);
  else if (key === "f" || key === "F") fit();
  else if (key === "Home") fitFirst();
  else if (key === "Escape" && live.side) beside("");
  else return false;
  return true;
};
