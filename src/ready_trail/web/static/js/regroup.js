"use strict";
// Dragging an accessory onto another circuit, or a position of the supply onto another row:
// mouse, touch or pen. The form beside each does the same by keyboard, and this only presses it.

(() => {
  let drag = null;
  let dragged = false;

  const cardAt = (x, y) => {
    for (const element of document.elementsFromPoint(x, y)) {
      const card = element.closest(".circuit-card, .position-row[data-start], .point-box[data-start]");
      if (card) return card;
    }
    return null;
  };

  const clear = () => {
    for (const card of document.querySelectorAll(".is-over")) card.classList.remove("is-over");
  };

  document.addEventListener("pointerdown", (event) => {
    const chip = event.target.closest && event.target.closest(".chip");
    if (!chip || event.button !== 0) return;
    drag = { chip, x: event.clientX, y: event.clientY };
    dragged = false;
    chip.setPointerCapture(event.pointerId);
    chip.classList.add("is-dragged");
    event.preventDefault();
  });

  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    if (Math.hypot(event.clientX - drag.x, event.clientY - drag.y) > 4) dragged = true;
    drag.chip.style.transform = `translate(${event.clientX - drag.x}px, ${event.clientY - drag.y}px)`;
    clear();
    const card = cardAt(event.clientX, event.clientY);
    if (card) card.classList.add("is-over");
  });

  const move = (circuit, start) => {
    const form = document.getElementById("row-mover");
    form.elements.circuit_id.value = circuit;
    form.elements.start.value = start;
    form.dataset.hand = `chip-${circuit}`; // the hand goes with what it moved
    form.requestSubmit();
  };

  // Arrow keys on a circuit of the supply: up and down among the positions of its point.
  document.addEventListener("keydown", (event) => {
    const chip = event.target.closest && event.target.closest(".chip[data-move]");
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (!chip || !by || event.altKey) return;
    event.preventDefault();
    if (once.isStoring()) once.after(() => step(chip.id, by));
    else step(chip.id, by);
  });
  const step = (id, by) => {
    const chip = document.getElementById(id);
    if (!chip) return;
    const rows = [...chip.closest(".point-box").querySelectorAll(".position-row[data-start]")];
    const target = rows[rows.indexOf(chip.closest(".position-row")) + by];
    if (target) move(chip.dataset.move, target.dataset.start);
  };

  // A chip may be a link: pressing it opens its page, dragging it does not.
  document.addEventListener("click", (event) => {
    if (!dragged || !event.target.closest || !event.target.closest(".chip")) return;
    dragged = false;
    event.preventDefault();
    event.stopPropagation();
  }, true);

  const end = (event, keep) => {
    if (!drag) return;
    const { chip } = drag;
    drag = null;
    chip.classList.remove("is-dragged");
    chip.style.transform = "";
    clear();
    const card = keep ? cardAt(event.clientX, event.clientY) : null;
    if (!card || card === chip.closest(".circuit-card, .position-row")) return;
    if (chip.dataset.move) {
      move(chip.dataset.move, card.dataset.start);
      return;
    }
    if (!card.dataset.circuit) return;
    const form = document.getElementById("regroup-form");
    form.elements.accessory_id.value = chip.dataset.accessory;
    form.elements.circuit_id.value = card.dataset.circuit;
    if (form.elements.accessory_id.value) form.requestSubmit(); // an output's lead stays where it is
  };
  document.addEventListener("pointerup", (event) => end(event, true));
  document.addEventListener("pointercancel", (event) => end(event, false));
})();
