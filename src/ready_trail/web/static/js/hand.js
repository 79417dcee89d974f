"use strict";
// After a press the hand is where it was: on the first wrong field, on what was pressed, on what
// stands in its place, or at the head of the new page. Lists keep what they showed.

(() => {
  const KEPT = "hand";
  const SECONDS = 20;
  const REACHABLE = "a[href], button:not([disabled]), input:not([type=hidden]):not([disabled]), select, textarea, summary, [tabindex='0']";
  const SCROLLERS = "main, aside, nav, section, ul, div";
  const words = (button) => (button.getAttribute("aria-label") || button.textContent || button.value || "").trim();
  const pathOf = (address) => new URL(address, location.href).pathname;
  const kindOf = (form) => {
    try {
      return JSON.parse(form.elements.edit.value).kind || "";
    } catch {
      return "";
    }
  };
  const shown = (element) => element.getClientRects().length > 0;
  const alike = (place) =>
    [...document.querySelectorAll("form button, form input[type=submit]")].filter(
      (button) =>
        button.form && pathOf(button.form.action) === place.action && kindOf(button.form) === place.kind && words(button) === place.words,
    );
  const scrolls = () =>
    [...document.querySelectorAll(SCROLLERS)]
      .filter((element) => element.scrollTop > 0)
      .map((element) => ({ id: element.id, name: element.className, top: element.scrollTop }));
  const keep = (place) => {
    const all = { ...place, page: location.pathname, scrolls: scrolls(), at: Date.now() };
    try {
      sessionStorage.setItem(KEPT, JSON.stringify(all));
    } catch {
      // a browser that keeps nothing loses only the place
    }
  };
  const taken = () => {
    try {
      const place = JSON.parse(sessionStorage.getItem(KEPT) || "null");
      sessionStorage.removeItem(KEPT);
      return place && Date.now() - place.at < SECONDS * 1000 ? place : null;
    } catch {
      return null;
    }
  };

  document.addEventListener(
    "submit",
    (event) => {
      const form = event.target;
      if (form.dataset.hand) {
        keep({ id: form.dataset.hand, must: true, words: "", action: "", regions: [], index: -1 });
        return;
      }
      const button = event.submitter || (form.contains(document.activeElement) ? document.activeElement : null);
      if (!button) return;
      const place = { id: button.id, words: words(button), action: pathOf(form.action), kind: kindOf(form) };
      const regions = [];
      for (let at = button.parentElement; at; at = at.parentElement) if (at.id && at.id !== "page") regions.push(at.id);
      keep({ ...place, regions, index: alike(place).indexOf(button) });
    },
    true,
  );
  document.addEventListener("click", (event) => {
    const link = event.target.closest && event.target.closest("a[href]");
    const elsewhere = event.ctrlKey || event.metaKey || event.shiftKey || event.altKey;
    if (link && !event.defaultPrevented && !elsewhere) keep({ id: link.id, link: true, words: words(link), regions: [], index: -1 });
  });

  const put = (element) => {
    for (let at = element.closest("details"); at; at = at.parentElement.closest("details")) at.open = true;
    if (!element.matches(REACHABLE) && !element.hasAttribute("tabindex")) element.tabIndex = -1;
    element.focus({ preventScroll: true });
    if (element.id !== "work") element.scrollIntoView({ block: "nearest" });
  };
  const successor = (place) => {
    const own = place.id && document.getElementById(place.id);
    if (own && !own.disabled && shown(own)) return own;
    if (place.id === "do-undo" || place.id === "do-redo") {
      const other = document.getElementById(place.id === "do-undo" ? "do-redo" : "do-undo");
      if (other && !other.disabled) return other;
    }
    if (place.link) return null;
    const same = alike(place).filter((button) => !button.disabled && shown(button));
    if (same.length) return same[Math.max(0, Math.min(place.index, same.length - 1))];
    for (const id of place.regions) {
      const region = document.getElementById(id);
      const first = region && [...region.querySelectorAll(REACHABLE)].find(shown);
      if (first && id !== "work") return first;
    }
    return null;
  };
  // What was opened to be filled in has the cursor in its first field.
  const first = () => {
    const form = document.querySelector("[data-first]");
    return form && [...form.querySelectorAll("input:not([type=hidden]), select, textarea")].find(shown);
  };
  const restore = () => {
    const place = taken();
    if (!place) return;
    if (place.page === location.pathname) {
      for (const { id, name, top } of place.scrolls) {
        const element = id ? document.getElementById(id) : [...document.querySelectorAll(SCROLLERS)].find((one) => one.className === name);
        if (element && element.scrollTop === 0) element.scrollTop = top;
      }
    }
    const wrong = document.querySelector("[aria-invalid=true]");
    if (wrong) {
      put(wrong);
      return;
    }
    const now = document.activeElement;
    if (!place.must && now && now !== document.body && now.isConnected && !now.disabled && shown(now)) return;
    const work = document.getElementById("work");
    const next = (place.link && first()) || successor(place) || work;
    if (next) put(next);
  };
  const opened = () => {
    const field = sessionStorage.getItem(KEPT) || document.activeElement !== document.body ? null : first();
    if (field) field.focus();
    restore();
  };
  // an address with a place in it moves the focus once more with the first frame after all is there
  const last = () => requestAnimationFrame(() => setTimeout(opened, 0));
  document.addEventListener("DOMContentLoaded", () => (location.hash ? addEventListener("load", last) : opened()));
  for (const name of ["htmx:afterSettle", "htmx:after:settle", "htmx:afterSwap", "htmx:after:swap"]) document.addEventListener(name, () => setTimeout(restore, 0));
})();
