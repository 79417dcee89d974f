"use strict";
// Ticks that outlive a dropped connection: each goes into a queue on this device first, is shown
// at once, and is sent in order as soon as the server answers. A key makes each count once.

const QUEUE = "ready-trail-ticks";
const REFUSED = "ready-trail-refused";
const AGAIN_MS = 4000;
const ASKED_MOST = 4000; // what a step asked, for the case that it is gone: a phone has little room

const readList = (name) => {
  try {
    const kept = JSON.parse(localStorage.getItem(name) || "[]");
    return Array.isArray(kept) ? kept : [];
  } catch {
    return [];
  }
};
const readQueue = () => readList(QUEUE);

const writeQueue = (ticks) => localStorage.setItem(QUEUE, JSON.stringify(ticks));

// crypto.randomUUID wants a secure page; a phone in the workshop may come over plain HTTP
const newKey = () => {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
};

const build = () => document.querySelector("[data-build]");
const itemElement = (item) => document.querySelector(`[data-item="${CSS.escape(item)}"]`);
const wordsOf = { open: "not done", done: "done", redo: "do again" };

const show = (item, state, waiting) => {
  const row = itemElement(item);
  if (!row) return;
  row.classList.remove("is-open", "is-done", "is-redo");
  row.classList.add(`is-${state}`);
  row.classList.toggle("is-waiting", waiting);
  const key = row.querySelector(".tick-key");
  const name = key.getAttribute("aria-label").replace(/: [^:]*$/, "");
  key.setAttribute("aria-pressed", state === "done" ? "true" : "false");
  key.setAttribute("aria-label", `${name}: ${wordsOf[state]}`);
  row.querySelector("input[name=done]").value = state === "done" ? "false" : "true";
};

const askedOf = (row) => {
  const title = row.querySelector(".step-title");
  if (!title) return "";
  const lines = [...row.querySelectorAll(".step-doing > li")].map((line) => line.textContent.trim());
  const expects = [...row.querySelectorAll(".step-expects tr")].map(
    (line) => `${line.querySelector("th").textContent}: ${line.querySelector("td").textContent}`,
  );
  return [title.textContent, ...lines, ...expects].join("\n").slice(0, ASKED_MOST);
};

const countUp = () => {
  const states = [...document.querySelectorAll(".step")].map((row) => row.classList);
  const bar = document.getElementById("bar");
  if (bar) {
    const done = Number(bar.dataset.hidden) + states.filter((list) => list.contains("is-done")).length;
    bar.value = done;
    document.getElementById("count").textContent = `${done} of ${bar.max}`;
  }
  for (const group of document.querySelectorAll("[data-group]")) {
    const all = group.querySelectorAll(".step").length;
    const done = group.querySelectorAll(".step.is-done").length;
    const place = document.querySelector(`[data-group-count="${CSS.escape(group.dataset.group)}"]`);
    if (place) {
      place.textContent = `${done}/${all}`;
      place.closest("a").classList.toggle("is-all", done === all);
    }
  }
  const cuts = document.getElementById("cut-count");
  if (cuts) cuts.textContent = `${document.querySelectorAll(".cut.is-done").length} of ${document.querySelectorAll(".cut").length}`;
  for (const step of document.querySelectorAll(".step.is-next")) step.classList.remove("is-next");
  const next = document.querySelector(".step:not(.is-done)");
  if (next) next.classList.add("is-next");
};

const tell = (words) => {
  const place = document.getElementById("queue");
  if (!place) return;
  place.hidden = !words;
  place.textContent = words;
  if (!readList(REFUSED).length) return;
  const read = document.createElement("button");
  read.type = "button";
  read.className = "button is-small";
  read.textContent = "I have read it";
  read.addEventListener("click", () => {
    localStorage.removeItem(REFUSED);
    tellQueue(true);
  });
  place.append(" ", read);
};

const queuedWords = (count) => {
  const word = readQueue().every((each) => each.test) ? "reading" : "tick";
  return count === 1 ? word : `${word}s`;
};

let notes = [];
const tellQueue = (reached) => {
  const waiting = readQueue().length;
  const words = waiting
    ? `${waiting} ${queuedWords(waiting)} kept on this device${reached ? "" : "; no connection"}. ${waiting === 1 ? "It is" : "They are"} sent as soon as the server answers.`
    : "";
  tell([refusal, words, ...notes, ...readList(REFUSED).map((tick) => tick.words)].filter(Boolean).join(" "));
};

// What the server cannot take is told until somebody has read it, and blocks nothing behind it.
const setAside = (ticks, why) => {
  const told = ticks.map((tick) => {
    const title = (tick.asked || "").split("\n")[0] || tick.item;
    return { key: tick.key, words: `“${title}” was not taken (${why[tick.key] || "the server refused it"}): tick it again.` };
  });
  localStorage.setItem(REFUSED, JSON.stringify([...readList(REFUSED), ...told].slice(-20)));
};

let refusal = "";
let sending = false;
let most = 100;
const flush = async () => {
  if (sending) return;
  sending = true;
  refusal = "";
  let reached = true;
  const hadReadings = readQueue().some((each) => each.test);
  try {
    for (;;) {
      const queue = readQueue();
      if (!queue.length) break;
      const url = queue[0].url;
      const batch = [];
      for (const tick of queue) {
        if (tick.url !== url || batch.length === most) break;
        batch.push(tick);
      }
      let answer;
      try {
        answer = await fetch(url, {
          method: "POST",
          headers: { "content-type": "application/json", "x-device-time": new Date().toISOString() },
          body: JSON.stringify(batch.map(({ url: _url, ...tick }) => tick)),
        });
      } catch {
        reached = false;
        break;
      }
      if (answer.status === 403) {
        refusal = `The server takes no ticks from here: ${await answer.text()}.`;
        break;
      }
      if (answer.status >= 500) {
        reached = false;
        break;
      }
      const told = (answer.headers.get("content-type") || "").includes("json") ? await answer.json() : {};
      const taken = new Set(told.taken || []);
      const refused = told.refused || {};
      const settled = (tick) => taken.has(tick.key) || tick.key in refused;
      const bad = batch.filter((tick) => tick.key in refused);
      if (!batch.some(settled)) {
        // nothing of it was acknowledged: one by one, so that a bad one does not keep the others
        if (batch.length > 1) {
          most = 1;
          continue;
        }
        if (![400, 404, 413, 422].includes(answer.status)) {
          reached = false;
          break;
        }
        bad.push(batch[0]);
        refused[batch[0].key] = told.words || told.detail || "the server refused it";
      }
      setAside(bad, refused);
      const gone = new Set([...taken, ...Object.keys(refused)]);
      writeQueue(readQueue().filter((tick) => !gone.has(tick.key)));
      if (told.states && build() && build().dataset.build === url) paint(told);
    }
    most = 100;
  } finally {
    sending = false;
  }
  tellQueue(reached);
  if (hadReadings && !readQueue().length && document.querySelector("[data-readings]")) location.reload();
  return reached;
};

const paint = (told) => {
  notes = told.notes || [];
  const waiting = new Set(readQueue().map((tick) => tick.item));
  for (const [item, state] of Object.entries(told.states)) {
    if (!waiting.has(item)) show(item, state, false);
  }
  countUp();
  const redo = document.getElementById("redo");
  if (redo) {
    redo.hidden = !told.redo;
    redo.querySelector(".figure").textContent = told.redo;
    document.getElementById("left").textContent = told.left;
    // what the service worker keeps of this page should know of these ticks too
    fetch(location.href, { headers: { accept: "text/html" } }).catch(() => {});
  }
};

const showQueued = () => {
  const place = build();
  if (!place) return;
  for (const tick of readQueue()) {
    if (tick.url === place.dataset.build) show(tick.item, tick.done ? "done" : "open", true);
  }
  countUp();
  tellQueue(true);
};

document.addEventListener("submit", (event) => {
  const form = event.target.closest("[data-tick]");
  const place = build();
  if (!form || !place) return;
  event.preventDefault();
  const row = form.closest("[data-item]");
  const done = !row.classList.contains("is-done");
  const who = document.getElementById("who");
  try {
    writeQueue([...readQueue(), {
      url: place.dataset.build, key: newKey(), item: row.dataset.item, done,
      print: row.dataset.print, asked: askedOf(row), who: who ? who.value.trim() : "",
      at: new Date().toISOString(),
    }]);
  } catch {
    tell("This device's storage is full: the tick was not kept. Connect, and press again.");
    return;
  }
  show(row.dataset.item, done ? "done" : "open", true);
  countUp();
  if (done && row.classList.contains("step")) openNext(row);
  flush();
});

const openNext = (row) => {
  const own = row.querySelector(":scope > details");
  if (!own || !own.open) return;
  own.open = false;
  const next = document.querySelector(".step.is-next > details");
  if (next) next.open = true;
};

const start = () => {
  const bar = document.getElementById("bar");
  if (bar && bar.dataset.hidden === undefined) {
    // "only open ones" leaves out what was done when the page was made
    bar.dataset.hidden = Number(bar.getAttribute("value")) - document.querySelectorAll(".step.is-done").length;
  }
  const who = document.getElementById("who");
  if (who && !who.dataset.ready) {
    who.dataset.ready = "yes";
    who.value = localStorage.getItem("ready-trail-who") || "";
    who.addEventListener("change", () => localStorage.setItem("ready-trail-who", who.value.trim()));
  }
  showQueued();
  if (readQueue().length) flush();
};

// another phone ticked
document.addEventListener("ready-trail:ticks", async () => {
  const place = build();
  if (!place || sending || readQueue().length) return;
  const answer = await fetch(place.dataset.build).catch(() => null);
  if (answer && answer.ok) paint(await answer.json());
});
document.addEventListener("DOMContentLoaded", start);
document.addEventListener("htmx:after:settle", start);
window.addEventListener("online", flush);
setInterval(() => {
  if (readQueue().length) flush();
}, AGAIN_MS);
if ("serviceWorker" in navigator) {
  // the first page was loaded before anybody could keep it
  navigator.serviceWorker.addEventListener("controllerchange", () => {
    if (build()) fetch(location.href).catch(() => {});
  });
  window.addEventListener("load", () => navigator.serviceWorker.register("/sw.js").catch(() => {}));
}

// Long work: ask how far it is until it is done.
const watchWork = async () => {
  const place = document.querySelector("[data-work]");
  if (!place) return;
  try {
    const told = await (await fetch(place.dataset.work)).json();
    const bar = place.querySelector("progress");
    if (bar && told.total > 1) {
      bar.max = told.total;
      bar.value = told.done;
    }
    place.querySelector("[data-words]").textContent = told.words;
    if (told.state !== "running") {
      const next = told.leads_to || place.dataset.open;
      if (told.state === "done" && next) location.replace(next);
      else location.reload();
      return;
    }
  } catch {
    // the next look may reach it
  }
  setTimeout(watchWork, 250);
};
document.addEventListener("DOMContentLoaded", watchWork);
