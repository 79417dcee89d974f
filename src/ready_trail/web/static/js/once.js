"use strict";
// One press at a time. A press made while another's answer is under way would be told that the job
// moved on. What repeats (undo, an arrow, a drag) is done when that answer is there, another form's
// press too where it still says the same; the same press again is a bounce of the hand, and so is the
// second click of two: by then another's button may stand in its place.

const once = (() => {
  const PATIENCE_MS = 60_000;
  let askedAt = -PATIENCE_MS;
  let storing = null; // the form whose change is under way
  let count = 0;
  const waiting = [];

  const isAsking = () => performance.now() - askedAt < PATIENCE_MS;
  const isStoring = () => storing !== null && isAsking();
  const stores = (form) => form.method === "post" && "revision" in form.elements;
  const saysOf = (form, button) => [form.action, form.elements.edit?.value, button?.textContent.trim()].join("\n");
  const fieldsOf = (form) => [...form.elements].filter((field) => field.type === "hidden" && field.name !== "revision");

  const buttonsOf = (form) => [...form.querySelectorAll("button[type=submit]:not([disabled])")];
  const later = (form, button) => {
    const says = saysOf(form, button);
    const isSame = (one) => one.isConnected && buttonsOf(one).some((own) => saysOf(one, own) === says);
    const moved = form.dataset.again === "last" ? fieldsOf(form).map((field) => [field, field.value]) : [];
    if (moved.length) waiting.length = 0;
    waiting.push(() => {
      if (moved.length && form.isConnected) {
        for (const [field, value] of moved) field.value = value;
        form.requestSubmit();
        return;
      }
      const there = isSame(form) ? form : [...document.forms].find(isSame);
      if (there) there.requestSubmit(buttonsOf(there).find((own) => saysOf(there, own) === says));
    });
  };

  document.addEventListener(
    "submit",
    (event) => {
      const form = event.target;
      if (!isStoring() || !stores(form)) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      if (form !== storing || form.dataset.again) later(form, event.submitter);
    },
    true,
  );
  document.addEventListener(
    "click",
    (event) => {
      const button = event.detail > 1 && event.target.closest && event.target.closest("button");
      if (!button || button.type !== "submit" || !button.form || !stores(button.form) || button.form.dataset.again) return;
      event.preventDefault();
      event.stopImmediatePropagation();
    },
    true,
  );
  const asks = (form) => {
    askedAt = performance.now();
    count += 1;
    storing = form && stores(form) ? form : null;
  };
  const answered = () => {
    askedAt = -PATIENCE_MS;
    storing = null;
    setTimeout(() => {
      if (waiting.length && !isStoring()) waiting.shift()();
      if (waiting.length && !isStoring()) waiting.length = 0; // the first could not be done: what follows hangs on it
    }, 0);
  };
  // a form that loads a page is under way until that page is there
  addEventListener("submit", (event) => {
    if (!event.defaultPrevented && stores(event.target)) asks(event.target);
  });
  document.addEventListener("htmx:before:request", (event) => asks(event.target.closest("form")));
  document.addEventListener("htmx:finally:request", answered);
  addEventListener("pageshow", answered);

  return { isAsking, isStoring, count: () => count, after: (press) => waiting.push(press) };
})();
