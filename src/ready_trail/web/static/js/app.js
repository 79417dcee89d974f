"use strict";
// Sliders that echo their value, shortcuts, the list of keys. No figures are computed here.

document.documentElement.classList.add("has-js");

// Times are told in the reader's own zone.
const tellMoments = () => {
  for (const time of document.querySelectorAll("time[data-moment]")) {
    const at = new Date(time.getAttribute("datetime"));
    if (Number.isNaN(at.getTime())) continue;
    time.title = `${time.textContent}`;
    time.textContent = at.toLocaleString([], { dateStyle: "medium", timeStyle: "short" });
    time.removeAttribute("data-moment");
  }
};
for (const name of ["DOMContentLoaded", "htmx:afterSwap", "htmx:after:swap"]) document.addEventListener(name, tellMoments);

// What holds a choice appears once another is chosen.
document.addEventListener("change", (event) => {
  const form = event.target.closest && event.target.closest(".hold");
  if (form) form.classList.add("is-changed");
});

// A slider says its value while it moves.
document.addEventListener("input", (event) => {
  const slider = event.target.closest && event.target.closest(".slider");
  if (slider) slider.querySelector("output > span").textContent = event.target.value;
});

const isTyping = (target) =>
  target instanceof HTMLElement &&
  (target.isContentEditable || target.closest("input:not([type=range]):not([type=checkbox]), textarea, select"));

const press = (id) => {
  const button = document.getElementById(id);
  if (button && !button.disabled) button.click();
};

const stepCircuit = (by) => {
  const links = [...document.querySelectorAll(".circuit-link")];
  const at = links.findIndex((link) => link.getAttribute("aria-current"));
  const next = links[at + by];
  if (next) next.click();
};

document.addEventListener("keydown", (event) => {
  if (isTyping(event.target)) return;
  if (event.key === "?") {
    event.preventDefault();
    document.getElementById("help").showModal();
  } else if ((event.ctrlKey || event.metaKey) && !event.shiftKey && event.key.toLowerCase() === "z") {
    event.preventDefault();
    press("do-undo");
  } else if ((event.ctrlKey || event.metaKey) && (event.key.toLowerCase() === "y" || (event.shiftKey && event.key.toLowerCase() === "z"))) {
    event.preventDefault();
    press("do-redo");
  } else if (event.altKey && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
    event.preventDefault();
    stepCircuit(event.key === "ArrowDown" ? 1 : -1);
  }
});

// A page that this device kept says so, and of when it is.
const tellKept = () => {
  const made = document.documentElement.dataset.kept;
  const place = document.getElementById("kept-page");
  if (made === undefined || !place) return;
  const when = new Date(made);
  const told = Number.isNaN(when.getTime()) ? "" : `, made ${when.toLocaleString([], { dateStyle: "medium", timeStyle: "short" })}`;
  place.textContent = `No connection: this is the page that this device kept${told}. Others may have changed it since.`;
  place.hidden = false;
};
document.addEventListener("DOMContentLoaded", tellKept);

document.addEventListener("click", (event) => {
  if (event.target.closest("#show-help")) document.getElementById("help").showModal();
});
