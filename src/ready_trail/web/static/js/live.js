"use strict";
// What somebody else changes arrives by itself; what is being typed here stays.

(() => {
  const EVERY_MS = 3000;

  const isChanged = (field) => {
    if (field.type === "hidden" || field.type === "submit" || field.type === "button" || field.type === "file") return false;
    if (field.type === "checkbox" || field.type === "radio") return field.checked !== field.defaultChecked;
    if (field instanceof HTMLSelectElement) return [...field.options].some((o) => o.selected !== o.defaultSelected) && field.selectedIndex > 0;
    return field.value !== field.defaultValue;
  };
  const isTyped = (form) => [...form.elements].some((field) => !(field instanceof HTMLFieldSetElement) && isChanged(field));
  const typedForms = () => [...document.querySelectorAll("#work form")].filter(isTyped);
  const nameOf = (form) => `${form.getAttribute("action")} ${form.id}`;

  // The page as it is now, with the forms in which something is typed kept as they are: those forms,
  // or null where one of them has no place there any more.
  const takeOver = async (isStill) => {
    const answer = await fetch(location.href, { headers: { accept: "text/html" } });
    if (!answer.ok || answer.redirected) return null;
    const page = new DOMParser().parseFromString(await answer.text(), "text/html").getElementById("page");
    if (!page || !isStill()) return null;
    const kept = typedForms();
    const places = kept.map((form) => {
      const alike = [...document.querySelectorAll("#work form")].filter((other) => nameOf(other) === nameOf(form));
      const there = [...page.querySelectorAll("#work form")].filter((other) => nameOf(other) === nameOf(form));
      return there[alike.indexOf(form)];
    });
    if (places.some((place) => !place)) return null;
    const focused = document.activeElement;
    const scroll = document.getElementById("work").scrollTop;
    kept.forEach((form, at) => places[at].replaceWith(form));
    document.getElementById("page").replaceWith(page);
    if (window.htmx) htmx.process(page);
    document.dispatchEvent(new CustomEvent("ready-trail:page"));
    document.getElementById("work").scrollTop = scroll;
    const hand = focused && (focused.isConnected ? focused : document.getElementById(focused.id));
    if (hand) hand.focus({ preventScroll: true });
    return kept;
  };

  const tell = (words) => {
    const work = document.getElementById("work");
    let bar = document.getElementById("news");
    if (!bar) {
      bar = document.createElement("p");
      bar.id = "news";
      bar.className = "news";
      bar.setAttribute("role", "status");
      work.prepend(bar);
    }
    bar.textContent = words;
  };

  let seenTicks = null;
  let busy = false;
  const look = async () => {
    const page = document.querySelector("#page[data-head]");
    if (!page || busy || once.isAsking() || document.hidden || document.querySelector("dialog[open]")) return;
    busy = true;
    // nothing was pressed since: what is new may be one's own, and an answer under way needs its place
    const before = once.count();
    const isStill = () => once.count() === before;
    try {
      const answer = await fetch(page.dataset.head);
      if (!answer.ok) return;
      const head = await answer.json();
      if (!isStill()) return;
      if (seenTicks !== null && head.ticks !== seenTicks && document.querySelector("[data-build]")) {
        document.dispatchEvent(new CustomEvent("ready-trail:ticks"));
      }
      seenTicks = head.ticks;
      if (String(head.revision) === page.dataset.revision) return;
      const words = `Changed by somebody else: revision ${head.revision}, ${head.title}.`;
      if (page.classList.contains("has-drawing")) {
        page.dataset.revision = head.revision; // its own strip says that it is old, when it is used
        tell(`${words} Load the page again to see it.`);
        return;
      }
      const kept = await takeOver(isStill);
      if (kept) tell(kept.length ? `${words} What you typed is still here.` : words);
      else if (isStill()) {
        page.dataset.revision = head.revision;
        tell(`${words} Load the page again to see it; what you typed stays until then.`);
      }
    } catch {
      // no connection: the next look may reach it
    } finally {
      busy = false;
    }
  };
  setInterval(look, EVERY_MS);
})();
