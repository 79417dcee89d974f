"use strict";
// Readings outlive a dropped connection as ticks do: into the queue on this device first.

document.addEventListener("submit", async (event) => {
  const form = event.target.closest("[data-reading]");
  const place = document.querySelector("[data-readings]");
  if (!form || !place) return;
  form.elements.who.value = localStorage.getItem("ready-trail-who") || "";
  if (navigator.onLine) return; // with a connection the form itself does it
  event.preventDefault();
  const card = form.closest("[data-test]");
  const pressed = event.submitter;
  const field = document.getElementById("f-value");
  const skipped = pressed && pressed.name === "skip" ? form.elements.skipped.value : "";
  const value = skipped ? "" : pressed && pressed.name === "value" ? pressed.value : field ? field.value : "";
  if (!value && !skipped) return;
  const asked = [card.querySelector(".test-title"), ...card.querySelectorAll(".test-facts dd")];
  try {
    writeQueue([...readQueue(), {
      url: place.dataset.readings, key: newKey(), circuit: card.dataset.circuit, test: card.dataset.test,
      value, skipped, away: Boolean(form.elements.away && form.elements.away.checked),
      asked: asked.map((line) => line.textContent.trim()).join("\n").slice(0, 2000),
      who: localStorage.getItem("ready-trail-who") || "", at: new Date().toISOString(),
    }]);
  } catch {
    tell("This device's storage is full: the reading was not kept. Connect, and take it again.");
    return;
  }
  tellQueue(false);
  form.reset();
  openNextTest();
});

// Without a connection the next test of the list is as far as the page can go by itself.
const openNextTest = () => {
  const here = document.querySelector(".prove-tests [aria-current]");
  if (here) here.closest("li").classList.add("is-kept");
};

// A meter that streams: shown until it is steady, then held in the field and taken by one press.
const EACH_MS = 500;
const STEADY = 3; // so many readings within the instrument's own error

const follow = async (button) => {
  const words = document.getElementById("meter-words");
  if (button.dataset.running) return;
  button.dataset.running = "yes";
  words.hidden = false;
  words.textContent = "…";
  const last = [];
  while (document.contains(button)) {
    let told;
    try {
      const answer = await fetch(button.dataset.meter);
      told = await answer.json();
    } catch {
      told = { words: "The server does not answer." };
    }
    words.classList.toggle("is-silent", Boolean(told.words));
    words.textContent = told.words || told.shown;
    if (told.words) break;
    last.push(told.typed);
    const near = last.slice(-STEADY).map(Number);
    const same = last.slice(-STEADY).every((typed) => typed === told.typed);
    if (last.length >= STEADY && (same || Math.max(...near) - Math.min(...near) <= 4 * told.sigma)) {
      words.classList.add("is-steady");
      hold(told.typed);
      break;
    }
    await new Promise((done) => setTimeout(done, EACH_MS));
  }
  delete button.dataset.running;
};

const hold = (typed) => {
  const field = document.getElementById("f-value");
  const form = document.querySelector("[data-reading]");
  if (!form.elements.source) {
    const source = document.createElement("input");
    source.type = "hidden";
    source.name = "source";
    source.value = "instrument";
    form.append(source);
  }
  if (field) {
    field.value = typed;
    form.querySelector(".button.is-primary").focus();
  } else {
    const choice = [...form.querySelectorAll("button[name=value]")].find((each) => each.value === typed);
    if (choice) choice.focus();
  }
};

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-meter]");
  if (button) follow(button);
});

// A number key goes straight into the field; the space bar takes what the meter holds.
document.addEventListener("keydown", (event) => {
  const field = document.getElementById("f-value");
  if (!field || event.target.closest("input, select, textarea, button, a, summary")) return;
  if (/^[0-9.,-]$/.test(event.key)) field.focus();
});
