"use strict";
// What each way out would change: asked for when the page is there, a few at a time.

(() => {
  const AT_A_TIME = 6;
  let round = 0;

  const fill = (edit, words) => {
    for (const place of document.querySelectorAll("[data-effect]")) {
      if (place.dataset.effect !== edit) continue;
      place.querySelector(".effect-words").textContent = words;
      if (words) place.querySelector("a").textContent = "See all changes";
      delete place.dataset.effect;
    }
  };

  const start = async () => {
    const page = document.querySelector("#page[data-head]");
    const edits = [...new Set([...document.querySelectorAll("[data-effect]")].map((place) => place.dataset.effect))];
    const mine = ++round;
    for (let at = 0; page && at < edits.length; at += AT_A_TIME) {
      const some = edits.slice(at, at + AT_A_TIME);
      const asked = new URLSearchParams([["revision", page.dataset.revision], ...some.map((edit) => ["edit", edit])]);
      try {
        const answer = await fetch(`${page.dataset.head.replace(/head$/, "effects")}?${asked}`);
        if (mine !== round || !answer.ok) return; // another page stands here, or the job moved on
        const told = await answer.json();
        some.forEach((edit, n) => fill(edit, told.effects[n]));
      } catch {
        return; // no connection: the links still lead to all of it
      }
    }
  };

  document.addEventListener("DOMContentLoaded", start);
  document.addEventListener("htmx:after:settle", start);
  document.addEventListener("ready-trail:page", start);
})();
