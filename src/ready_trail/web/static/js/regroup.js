"use strict";
// Dragging an accessory onto another circuit: mouse, touch or pen. The form beside each
// accessory does the same by keyboard, and this only presses it.

(() => {
  let drag = null;

  const cardAt = (x, y) => {
    for (const element of document.elementsFromPoint(x, y)) {
      const card = element.closest(".circuit-card");
      if (card) return card;
    }
    return null;
  };

  const clear = () => {
    for (const card of document.querySelectorAll(".circuit-card.is-over")) card.classList.remove("is-over");
  };

  document.addEventListener("pointerdown", (event) => {
    const chip = event.target.closest && event.target.closest(".chip");
    if (!chip || event.button !== 0) return;
    drag = { chip, x: event.clientX, y: event.clientY };
    chip.setPointerCapture(event.pointerId);
    chip.classList.add("is-dragged");
    event.preventDefault();
  });

  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    drag.chip.style.transform = `translate(${event.clientX - drag.x}px, ${event.clientY - drag.y}px)`;
    clear();
    const card = cardAt(event.clientX, event.clientY);
    if (card) card.classList.add("is-over");
  });

  const end = (event, keep) => {
    if (!drag) return;
    const { chip } = drag;
    drag = null;
    chip.classList.remove("is-dragged");
    chip.style.transform = "";
    clear();
    const card = keep ? cardAt(event.clientX, event.clientY) : null;
    if (!card || card === chip.closest(".circuit-card")) return;
    const select = document.getElementById(`group-${chip.dataset.accessory}`);
    select.value = card.dataset.circuit;
    select.form.requestSubmit();
  };
  document.addEventListener("pointerup", (event) => end(event, true));
  document.addEventListener("pointercancel", (event) => end(event, false));
})();
