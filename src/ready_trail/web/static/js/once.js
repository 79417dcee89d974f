"use strict";
// One press at a time. A press made while another's answer is under way would be told that the job
// moved on. What repeats (undo, an arrow, a drag) is done when that answer is there, another form's
// press too where it still says the same; the same press again is a bounce of the hand, and so is the
// second click of two: by then another's button may stand in its place.

const once = (() => {
  const PATIENCE_MS = 60_000;
  const LEAVING_MS = 10_000; // a page that is to follow may have been called off
  const underWay = new Map(); // by request: the form that stores something by it, if one does
  let count = 0;
  const waiting = [];

  const live = () => [...underWay.values()].filter((each) => performance.now() < each.until);
  const isAsking = () => live().length > 0;
  const isStoring = (form) => live().some((each) => each.form && (!form || each.form === form));
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
      if (!isStoring(form) || form.dataset.again) later(form, event.submitter);
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
  const asks = (request, form, patience) => {
    underWay.set(request, { form: form && stores(form) ? form : null, until: performance.now() + patience });
    count += 1;
  };
  const next = () => {
    if (waiting.length && !isStoring()) waiting.shift()();
    if (waiting.length && !isStoring()) waiting.length = 0; // the first could not be done: what follows hangs on it
  };
  // a form that loads a page is under way until that page is there
  addEventListener("submit", (event) => {
    if (event.defaultPrevented || !stores(event.target)) return;
    asks(event.target, event.target, LEAVING_MS);
    setTimeout(next, LEAVING_MS + 100);
  });
  addEventListener("pageshow", () => underWay.clear());
  document.addEventListener("htmx:before:request", (event) => {
    const { ctx } = event.detail;
    const form = ctx.request.method === "POST" && event.target instanceof HTMLFormElement ? event.target : null;
    asks(ctx, form, PATIENCE_MS);
  });
  document.addEventListener("htmx:finally:request", (event) => {
    underWay.delete(event.detail.ctx);
    setTimeout(next, 0);
  });

  return { isAsking, isStoring, count: () => count, after: (press) => waiting.push(press) };
})();
