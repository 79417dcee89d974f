// What is picked, and what is found.

const pick = async (ref, move) => {
  for (const old of live.svg.querySelectorAll(".is-picked")) old.classList.remove("is-picked");
  const parts = live.svg.querySelectorAll(`[data-wire="${CSS.escape(ref)}"], .sheet-device[data-ref="${CSS.escape(ref)}"]`);
  for (const part of parts) part.classList.add("is-picked");
  if (move && parts.length) {
    const box = parts[0].getBBox();
    const shift = parts[0].transform.baseVal.consolidate();
    const dx = shift ? shift.matrix.e : 0;
    const dy = shift ? shift.matrix.f : 0;
    centre(box.x + box.width / 2 + dx, box.y + box.height / 2 + dy, Math.min(live.box.w, Math.max(560, live.view.clientWidth * 1.15)));
  }
  const answer = await fetch(`${live.root.dataset.base}/pick?ref=${encodeURIComponent(ref)}`);
  document.getElementById("picked").innerHTML = await answer.text();
  live.picked = ref;
  measure();
};
const find = (text) => {
  const wanted = text.trim().toLowerCase();
  if (!wanted) return;
  const parts = [...live.svg.querySelectorAll(".sheet-device, .sheet-wire")];
  const name = (part) => (part.dataset.wire || part.dataset.ref).toLowerCase();
  const hit =
    parts.find((part) => name(part) === wanted) ||
    parts.find((part) => part.querySelector("title").textContent.toLowerCase().includes(wanted)) ||
    parts.find((part) => wanted.startsWith(name(part)));
  if (hit) {
    pick(hit.dataset.wire || hit.dataset.ref, true);
    return;
  }
  const row = [...live.svg.querySelectorAll(".row-group")].find((group) => group.textContent.toLowerCase().includes(wanted));
  if (row) {
    const ground = row.querySelector("rect");
    show({ x: 0, y: Number(ground.getAttribute("y")) - 20, w: live.full.w, h: 0 });
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
