"use strict";
// A reading is sent by itself, so that what the server says of it stands beside its field. Where it
// does not answer, the reading waits on this device as ticks do, and the next test is at hand.

document.addEventListener("submit", async (event) => {
  const form = event.target.closest("[data-reading]");
  const place = document.querySelector("[data-readings]");
  if (!form || !place) return;
  event.preventDefault();
  const card = form.closest("[data-test]");
  const pressed = event.submitter;
  const field = form.elements["f-value"];
  const skipped = pressed && pressed.name === "skip" ? form.elements.skipped.value.trim() : "";
  const value = skipped ? "" : pressed && pressed.name === "value" ? pressed.value : field ? field.value : "";
  const asked = [card.querySelector(".test-title"), ...card.querySelectorAll(".test-facts dd")];
  const reading = {
    key: form.elements.key.value, circuit: card.dataset.circuit, test: card.dataset.test, value, skipped,
    away: Boolean(form.elements.away && form.elements.away.checked),
    source: form.elements.source ? form.elements.source.value : "typed",
    asked: asked.map((line) => line.textContent.trim()).join("\n").slice(0, 2000),
    who: localStorage.getItem("ready-trail-who") || "", at: new Date().toISOString(),
  };
  const told = await sendReading(place.dataset.readings, reading);
  if (told && told.taken && told.taken.includes(reading.key)) location.assign(place.dataset.next);
  else if (told) refuseReading(form, (told.refused || {})[reading.key] || told.words || "The server did not take it.");
  else if (!value.trim() && !skipped) refuseReading(form, "Type what the instrument shows, or skip with a reason.");
  else keepReading(place, card, reading);
});

// What the server says; null where it does not answer.
const sendReading = async (url, reading) => {
  try {
    const answer = await fetch(url, {
      method: "POST",
      headers: { "content-type": "application/json", "x-device-time": new Date().toISOString() },
      body: JSON.stringify([reading]),
    });
    if (answer.status >= 500) return null;
    const isTold = (answer.headers.get("content-type") || "").includes("json");
    return isTold ? await answer.json() : { words: (await answer.text()).slice(0, 200) };
  } catch {
    return null;
  }
};

const refuseReading = (form, words) => {
  form.querySelector(".help.is-danger")?.remove();
  const told = document.createElement("p");
  told.className = "help is-danger";
  told.id = "f-value-error";
  told.setAttribute("role", "alert");
  told.textContent = words;
  form.querySelector(".test-entry, .test-choices").after(told);
  const field = form.elements["f-value"];
  if (field) {
    field.setAttribute("aria-invalid", "true");
    field.setAttribute("aria-describedby", "f-value-error");
    field.focus();
  }
};

const keepReading = (place, card, reading) => {
  try {
    writeQueue([...readQueue(), { url: place.dataset.readings, ...reading }]);
  } catch {
    tell("This device's storage is full: the reading was not kept. Connect, and take it again.");
    return;
  }
  tellQueue(false);
  const link = document.querySelector(`[data-test-link="${CSS.escape(reading.test)}"]`);
  if (link) link.closest("li").classList.add("is-kept");
  const open = [...document.querySelectorAll("li:not(.is-kept) > [data-test-link]")];
  const next = open.find((each) => each.querySelector(".verdict-open, .verdict-again, .verdict-older"));
  if (next) showCard(next.dataset.testLink);
  else card.querySelector("form").reset();
};

// The cards of the must tests are on the page: the next one needs no connection.
const showCard = (key) => {
  const made = document.querySelector(`template[data-card="${CSS.escape(key)}"]`);
  const shown = document.querySelector(".test-card");
  if (!made || !shown) return false;
  shown.replaceWith(made.content.cloneNode(true));
  for (const link of document.querySelectorAll("[data-test-link]")) {
    if (link.dataset.testLink === key) link.setAttribute("aria-current", "true");
    else link.removeAttribute("aria-current");
  }
  return true;
};

document.addEventListener("click", (event) => {
  const link = event.target.closest("[data-test-link]");
  if (link && !navigator.onLine && showCard(link.dataset.testLink)) event.preventDefault();
});

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
