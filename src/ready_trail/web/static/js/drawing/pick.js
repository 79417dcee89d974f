// What is picked, and what is found.

const namedParts = (ref) => every(`[data-wire="${CSS.escape(ref)}"], .sheet-device[data-ref="${CSS.escape(ref)}"]`);
const showPiece = (ref) => {
  const parts = namedParts(ref);
  if (hasCards()) {
    const part = parts.find((one) => live.cards.contains(one));
    if (part) toCard(part.closest(".row-card"));
    return;
  }
  const part = parts.find((one) => live.svg.contains(one));
  if (!part) return;
  const box = part.getBBox();
  const shift = part.transform.baseVal.consolidate();
  const dx = shift ? shift.matrix.e : 0;
  const dy = shift ? shift.matrix.f : 0;
  centre(box.x + box.width / 2 + dx, box.y + box.height / 2 + dy, Math.min(live.box.w, (live.view.clientWidth * LETTER) / LEAST_PX));
};
const pick = async (ref, move) => {
  for (const old of every(".is-picked")) old.classList.remove("is-picked");
  for (const part of namedParts(ref)) part.classList.add("is-picked");
  live.picked = ref;
  if (live.side !== "faults") beside("picked");
  if (move) showPiece(ref);
  const answer = await fetch(`${live.root.dataset.base}/pick?ref=${encodeURIComponent(ref)}`);
  document.getElementById("picked").innerHTML = await answer.text();
  measure();
};
// Names of circuits and accessories come first; then references, then whatever a title says.
const find = (text) => {
  const wanted = text.trim().toLowerCase();
  if (!wanted) return;
  const parts = [...live.svg.querySelectorAll(".sheet-device, .sheet-wire")];
  const name = (part) => (part.dataset.wire || part.dataset.ref).toLowerCase();
  const title = (part) => part.querySelector("title").textContent.toLowerCase();
  const rows = [...live.svg.querySelectorAll(".row-group")];
  const exact = parts.find((part) => name(part) === wanted);
  const row = exact ? null : rows.find((group) => group.dataset.name.toLowerCase().includes(wanted));
  if (row) {
    const own = hasCards() && [...live.cards.children].find((card) => card.dataset.owner === row.dataset.owner);
    const top = Number(row.querySelector("rect").getAttribute("y"));
    if (own) toCard(own);
    else show({ x: Math.min(live.box.x, Number(live.svg.dataset.names) - 24), y: top - HEAD_PX / scale(), w: live.box.w, h: 0 });
    say("");
    return;
  }
  const loads = parts.filter((part) => part.classList.contains("device-load"));
  const hit = exact || loads.find((part) => title(part).includes(wanted)) || parts.find((part) => title(part).includes(wanted));
  const last = hit || parts.find((part) => wanted.startsWith(name(part)));
  if (last) {
    say("");
    pick(last.dataset.wire || last.dataset.ref, true);
  } else say(`Nothing on the sheet is called ${text}.`);
};
const work = (ref) => {
  const boxes = [...live.form.querySelectorAll(`input[data-ref="${CSS.escape(ref)}"]`)];
  if (!boxes.length) return false;
  const on = boxes.findIndex((box) => box.checked);
  for (const box of boxes) box.checked = false;
  if (on + 1 < boxes.length) boxes[on + 1].checked = true;
  refresh();
  return true;
};
