"use strict";
// A hunt on its drawing: a press puts a probe on a terminal, or chooses a piece; the fields beside
// it are the same by keyboard. What can be named narrows to the piece that was pressed.

const bench = () => document.querySelector("[data-hunt]");
const choose = (field, value) => {
  const known = [...field.options].some((option) => option.value === value);
  if (known) field.value = value;
  return known;
};

const showProbes = () => {
  const form = bench();
  if (!form) return;
  const { red, black, piece } = form.elements;
  for (const spot of form.querySelectorAll(".probe-spot")) {
    spot.classList.toggle("has-red", spot.dataset.node === red.value);
    spot.classList.toggle("has-black", spot.dataset.node === black.value);
  }
  for (const part of form.querySelectorAll(".sheet-wire, .sheet-device")) {
    part.classList.toggle("is-picked", Boolean(piece.value) && (part.dataset.wire || part.dataset.ref) === piece.value);
  }
};

const nameOf = (ref) => {
  const field = document.getElementById("f-name");
  const words = document.getElementById("name-of");
  if (!field || !words) return;
  const own = [...field.options].filter((option) => option.dataset.subject === ref);
  for (const option of field.options) option.hidden = Boolean(own.length && option.value && option.dataset.subject !== ref);
  words.hidden = !own.length;
  words.textContent = own.length ? `Only what may be wrong with ${ref}: press something else for more.` : "";
  if (own.length) field.value = own.length === 1 ? own[0].value : "";
};

document.addEventListener("click", (event) => {
  const form = bench();
  if (!form || !form.contains(event.target)) return;
  const spot = event.target.closest(".probe-spot");
  const part = event.target.closest(".sheet-wire, .sheet-device");
  if (spot) {
    const next = form.dataset.next === "black" ? "black" : "red";
    if (choose(form.elements[next], spot.dataset.node)) form.dataset.next = next === "red" ? "black" : "red";
  } else if (part) {
    const ref = part.dataset.wire || part.dataset.ref;
    choose(form.elements.piece, ref);
    nameOf(ref);
  } else return;
  showProbes();
});
document.addEventListener("change", (event) => {
  const form = bench();
  if (!form || !form.contains(event.target)) return;
  if (event.target.name === "piece") nameOf(event.target.value);
  showProbes();
});
document.addEventListener("DOMContentLoaded", showProbes);
