"use strict";
// The live drawing: pan, zoom and search; switches worked in place; a meter; faults; a replay.
// The server solves every state; this paints what it answers and changes nothing of the job.

(() => {
  const ZOOM = 1.25;
  const REPLAY_MS = 900;
  const CLICK_PX = 4;
  const HEAD_PX = 74;
  let live = null;

  const start = () => {
    const root = document.getElementById("live");
    if (!root || root.dataset.started) return;
    root.dataset.started = "yes";
    live = {
      root,
      svg: document.getElementById("sheet"),
      head: document.getElementById("names-head"),
      map: document.getElementById("sheet-map"),
      view: document.getElementById("sheet-view"),
      form: document.getElementById("controls"),
      faults: [],
      blown: [],
      red: null,
      black: { node: "0", name: "BAT −" },
      clamp: null,
      next: "red",
      history: [],
      steps: null,
      step: -1,
      asked: 0,
      box: null,
      state: JSON.parse(root.dataset.state),
    };
    live.wires = [...live.svg.querySelectorAll(".sheet-wire")].map((wire) => ({ wire, glow: wire.querySelector(".wire-glow"), label: wire.dataset.wire, amps: 0 }));
    live.devices = [...live.svg.querySelectorAll(".sheet-device")];
    const params = new URLSearchParams(location.search);
    live.faults = params.getAll("fault");
    live.blown = params.getAll("blown");
    const width = Number(live.svg.dataset.width);
    live.full = { x: 0, y: 0, w: width, h: Number(live.svg.dataset.height) };
    paint(live.state);
    fitFirst();
    if (root.dataset.picked) pick(root.dataset.picked, true);
    new ResizeObserver(() => show(live.box)).observe(live.view);
  };

  // Where one is
  const ratio = () => {
    const at = live.view.getBoundingClientRect();
    return at.height / Math.max(1, at.width);
  };
  const fitFirst = () => show({ x: 0, y: 0, w: live.full.w, h: live.full.w * ratio() });
  const show = (box) => {
    if (!live || !box) return;
    const least = 300;
    const w = Math.min(Math.max(box.w, least), Math.max(live.full.w, live.full.h / ratio()) * 1.05);
    const h = w * ratio();
    const x = Math.min(Math.max(box.x, -40), Math.max(live.full.w - w + 40, -40));
    const y = Math.min(Math.max(box.y, -20), Math.max(live.full.h - h + 20, -20));
    live.box = { x, y, w, h };
    live.svg.setAttribute("viewBox", `${x} ${y} ${w} ${h}`);
    const top = Number(live.svg.dataset.top);
    const px = live.view.clientWidth / w;
    const tall = y <= 0 ? top : Math.min(top, HEAD_PX / px);
    live.head.setAttribute("viewBox", `${x} ${top - tall} ${w} ${tall}`);
    live.head.setAttribute("width", live.view.clientWidth);
    live.head.setAttribute("height", tall * px);
    live.head.classList.toggle("is-away", y <= 0);
    const mark = document.getElementById("map-view");
    mark.setAttribute("x", x);
    mark.setAttribute("y", y);
    mark.setAttribute("width", w);
    mark.setAttribute("height", h);
  };
  const zoom = (factor, cx, cy) => {
    const { x, y, w, h } = live.box;
    const px = cx === undefined ? x + w / 2 : cx;
    const py = cy === undefined ? y + h / 2 : cy;
    show({ x: px - (px - x) / factor, y: py - (py - y) / factor, w: w / factor, h: h / factor });
  };
  const fit = () => show({ x: 0, y: 0, w: Math.max(live.full.w, live.full.h / ratio()), h: 0 });
  const centre = (x, y, w) => {
    const wide = w || live.box.w;
    show({ x: x - wide / 2, y: y - (wide * ratio()) / 2, w: wide, h: 0 });
  };
  const at = (event, svg) =>
    new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());

  // What is asked
  const query = () => {
    const params = new URLSearchParams(new FormData(live.form));
    for (const key of live.faults) params.append("fault", key);
    for (const ref of live.blown) params.append("blown", ref);
    return params;
  };
  const wait = (state) => live.view.classList.toggle("is-waiting", state);
  const refresh = async (remember = true) => {
    const params = query();
    const mine = ++live.asked;
    if (remember) live.history.push(params.toString());
    document.getElementById("replay").disabled = live.history.length < 2;
    history.replaceState(null, "", `${live.root.dataset.base}?${params}`);
    params.set("revision", live.root.dataset.revision);
    wait(true);
    say("");
    try {
      const answer = await fetch(`${live.root.dataset.base}/state?${params}`);
      const state = await answer.json();
      if (mine !== live.asked) return;
      if (!answer.ok) {
        say(state.words);
        return;
      }
      paint(state);
      measure();
    } catch {
      say("The server does not answer. What you see is the last state.");
    } finally {
      if (mine === live.asked) wait(false);
    }
  };
  const say = (words) => {
    const trouble = document.getElementById("trouble");
    trouble.textContent = words;
    trouble.hidden = !words;
  };

  // What is seen
  const paint = (state) => {
    live.state = state;
    if (state.trouble) say("This state has no steady answer: what is broken pulls the supply down. Mend a fault, or switch something off.");
    for (const part of live.wires) {
      const amps = Math.abs(state.wires[part.label] || 0);
      if (amps === part.amps) continue;
      part.amps = amps;
      const flows = amps > 0.005;
      part.wire.classList.toggle("is-live", flows);
      if (flows) part.glow.style.strokeWidth = `${7 + Math.min(12, 3 * Math.log10(1 + amps * 10))}px`;
    }
    const opening = new Set(Object.values(state.fuses).map((fuse) => fuse.device));
    for (const device of live.devices) {
      const ref = device.dataset.ref;
      device.classList.toggle("is-in", Boolean(state.relays[ref]));
      device.classList.toggle("is-closed", Boolean(state.closed[ref]));
      device.classList.toggle("opens", opening.has(ref));
      device.classList.toggle("is-blown", live.blown.includes(ref));
      device.classList.toggle("chatters", state.chatter.includes(ref));
    }
    const on = new Set(state.loads.filter((load) => load.on).map((load) => load.ref));
    const lacks = new Set(state.loads.filter((load) => load.lacks).map((load) => load.ref));
    const broken = new Set(state.faults.map((fault) => fault.subject));
    for (const device of live.devices) {
      device.classList.toggle("is-on", on.has(device.dataset.ref));
      device.classList.toggle("lacks", lacks.has(device.dataset.ref));
      device.classList.toggle("is-broken", broken.has(device.dataset.ref));
    }
    for (const part of live.wires) part.wire.classList.toggle("is-broken", broken.has(part.label));
    for (const bar of live.svg.querySelectorAll(".sheet-bar")) {
      const volts = bar.dataset.node === "0" ? 0 : state.nodes[bar.dataset.node] || 0;
      bar.classList.toggle("is-hot", volts > 1);
    }
    document.getElementById("gauge-v").textContent = state.trouble ? "–" : `${state.source_v.toFixed(1)} V`;
    document.getElementById("gauge-a").textContent = state.trouble ? "" : `${state.total_a.toFixed(1)} A`;
    document.getElementById("gauge-words").textContent = state.chatter.length ? `${state.chatter.join(", ")} chatters` : "";
    document.getElementById("summary").textContent = state.summary;
    rows(state);
    faultList(state);
  };
  const rows = (state) => {
    const body = document.getElementById("live-rows");
    for (const [number, load] of state.loads.entries()) {
      const row = body.children[number];
      if (!row) continue;
      row.className = `${load.on ? "is-on" : ""}${load.lacks ? " lacks" : ""}`;
      row.children[1].textContent = load.v.toFixed(1);
      row.children[2].textContent = load.a.toFixed(1);
    }
  };
  const faultList = (state) => {
    const list = document.getElementById("fault-list");
    list.replaceChildren();
    for (const fault of state.faults) {
      list.append(line(fault.words, "Mend", () => {
        live.faults = live.faults.filter((key) => key !== fault.key);
        refresh();
      }));
    }
    for (const ref of state.blown) {
      list.append(line(`${ref} has opened`, "Put in a new one", () => {
        live.blown = live.blown.filter((name) => name !== ref);
        refresh();
      }));
    }
    const any = state.faults.length + state.blown.length > 0;
    document.getElementById("faults").hidden = !any;
    document.getElementById("first-fuse").textContent = state.first_words;
    const opens = document.getElementById("let-open");
    opens.hidden = !state.first;
    opens.textContent = state.first ? `Let ${state.first} open` : "";
    heat(state);
  };
  const line = (words, label, act) => {
    const item = document.createElement("li");
    const text = document.createElement("span");
    text.textContent = words;
    const button = document.createElement("button");
    button.type = "button";
    button.className = "button is-small";
    button.textContent = label;
    button.addEventListener("click", act);
    item.append(text, button);
    return item;
  };
  const heat = async (state) => {
    const into = document.getElementById("heat");
    const short = state.faults.find((fault) => fault.key.startsWith("body:"));
    if (!short || state.trouble) {
      into.replaceChildren();
      return;
    }
    const params = query();
    params.set("wire", short.subject);
    const answer = await fetch(`${live.root.dataset.base}/heat?${params}`);
    if (state === live.state) into.innerHTML = await answer.text();
  };

  // What is picked
  const pick = async (ref, move) => {
    for (const old of live.svg.querySelectorAll(".is-picked")) old.classList.remove("is-picked");
    const parts = live.svg.querySelectorAll(`[data-wire="${CSS.escape(ref)}"], .sheet-device[data-ref="${CSS.escape(ref)}"]`);
    for (const part of parts) part.classList.add("is-picked");
    if (move && parts.length) {
      const box = parts[0].getBBox();
      const shift = parts[0].transform.baseVal.consolidate();
      const dx = shift ? shift.matrix.e : 0;
      const dy = shift ? shift.matrix.f : 0;
      centre(box.x + box.width / 2 + dx, box.y + box.height / 2 + dy, Math.min(live.box.w, Math.max(560, live.view.clientWidth * 1.15)));
    }
    const answer = await fetch(`${live.root.dataset.base}/pick?ref=${encodeURIComponent(ref)}`);
    document.getElementById("picked").innerHTML = await answer.text();
    live.picked = ref;
    measure();
  };
  const find = (text) => {
    const wanted = text.trim().toLowerCase();
    if (!wanted) return;
    const parts = [...live.svg.querySelectorAll(".sheet-device, .sheet-wire")];
    const name = (part) => (part.dataset.wire || part.dataset.ref).toLowerCase();
    const hit =
      parts.find((part) => name(part) === wanted) ||
      parts.find((part) => part.querySelector("title").textContent.toLowerCase().includes(wanted)) ||
      parts.find((part) => wanted.startsWith(name(part)));
    if (hit) {
      pick(hit.dataset.wire || hit.dataset.ref, true);
      return;
    }
    const row = [...live.svg.querySelectorAll(".row-group")].find((group) => group.textContent.toLowerCase().includes(wanted));
    if (row) {
      const ground = row.querySelector("rect");
      show({ x: 0, y: Number(ground.getAttribute("y")) - 20, w: live.full.w, h: 0 });
    } else say(`Nothing on the sheet is called ${text}.`);
  };
  const work = (ref) => {
    const boxes = [...live.form.querySelectorAll(`input[data-ref="${CSS.escape(ref)}"]`)];
    if (!boxes.length) return false;
    const on = boxes.findIndex((box) => box.checked);
    for (const box of boxes) box.checked = false;
    if (on + 1 < boxes.length) boxes[on + 1].checked = true;
    refresh();
    return true;
  };

  // What is measured
  const mode = () => document.querySelector("input[name=meter]:checked").value;
  const probe = (node, name) => {
    live[live.next] = { node, name };
    live.next = live.next === "red" ? "black" : "red";
    live.clamp = null;
    if (mode() === "clamp") document.querySelector("input[name=meter][value=volts]").checked = true;
    measure();
  };
  const clamp = (wire) => {
    live.clamp = wire;
    document.querySelector("input[name=meter][value=clamp]").checked = true;
    measure();
  };
  const measure = async () => {
    const face = document.getElementById("meter-face");
    const words = document.getElementById("meter-words");
    const warning = document.getElementById("meter-warning");
    document.getElementById("probe-red").textContent = `red ${live.red ? live.red.name : "–"}`;
    document.getElementById("probe-black").textContent = `black ${live.black ? live.black.name : "–"}`;
    for (const spot of live.svg.querySelectorAll(".probe-spot")) {
      spot.classList.toggle("has-red", Boolean(live.red) && spot.dataset.node === live.red.node);
      spot.classList.toggle("has-black", Boolean(live.black) && spot.dataset.node === live.black.node);
    }
    document.getElementById("touch").disabled = !live.red || !live.black || live.red.node === live.black.node;
    for (const key of document.querySelectorAll(".front-key[data-work]")) {
      const boxes = [...live.form.querySelectorAll(`input[data-ref="${CSS.escape(key.dataset.work)}"]`)];
      key.setAttribute("aria-pressed", String(boxes.some((box) => box.checked)));
    }
    const params = query();
    if (mode() === "clamp") {
      if (!live.clamp) {
        face.textContent = "–";
        words.textContent = "Pick a wire, then clamp it.";
        return;
      }
      params.set("clamp", live.clamp);
    } else {
      if (!live.red || !live.black) {
        face.textContent = "–";
        return;
      }
      params.set("red", live.red.node);
      params.set("black", live.black.node);
      params.set("mode", mode());
    }
    const answer = await fetch(`${live.root.dataset.base}/meter?${params}`);
    const read = await answer.json();
    warning.hidden = !read.warning;
    warning.textContent = read.warning || "";
    document.getElementById("keep-reading").disabled = !answer.ok;
    if (!answer.ok) {
      face.textContent = "–";
      words.textContent = read.words;
      return;
    }
    face.textContent = read.reading;
    words.textContent = `This design expects ${read.expects}.`;
    face.classList.toggle("is-off", read.reading !== read.expects);
  };
  const note = () => {
    const item = document.createElement("li");
    const face = document.getElementById("meter-face").textContent;
    const what = mode() === "clamp" ? live.clamp : `${live.red.name} to ${live.black.name}`;
    item.textContent = `${what}: ${face}. ${document.getElementById("meter-words").textContent}`;
    document.getElementById("readings").prepend(item);
  };

  // States set from elsewhere
  const put = (state, remember = true) => {
    for (const radio of live.form.querySelectorAll("input[type=radio]")) radio.checked = radio.value === state[radio.name];
    for (const box of live.form.querySelectorAll("input[type=checkbox]")) {
      const wanted = box.name === "engine" ? (state.engine ? ["on"] : []) : state[box.name] || [];
      box.checked = wanted.includes(box.value);
    }
    return refresh(remember);
  };
  const putQuery = (text) => {
    const params = new URLSearchParams(text);
    live.faults = params.getAll("fault");
    live.blown = params.getAll("blown");
    return put({ key: params.get("key"), lights: params.get("lights"), engine: params.get("engine"), on: params.getAll("on"), signal: params.getAll("signal") }, false);
  };
  const replay = async () => {
    const pressed = [...live.history];
    for (const text of pressed) {
      await putQuery(text);
      await new Promise((done) => setTimeout(done, REPLAY_MS));
    }
  };
  const nextTruth = async () => {
    const id = document.getElementById("truth-of").value;
    const words = document.getElementById("truth-words");
    if (!live.steps || live.steps.id !== id) {
      const answer = await fetch(`${live.root.dataset.base}/truth?circuit=${encodeURIComponent(id)}`);
      const found = await answer.json();
      if (!answer.ok) {
        words.textContent = found.words;
        return;
      }
      live.steps = { id, ...found };
      live.step = -1;
    }
    live.step = (live.step + 1) % live.steps.steps.length;
    const step = live.steps.steps[live.step];
    words.textContent = `${live.step + 1} of ${live.steps.steps.length}: key ${step.key}, lights ${step.lights}${step.signal.length ? `, ${step.signal[0]}` : ""}: ${live.steps.name} is ${step.is_on ? "on" : "off"}.`;
    put(step);
  };

  document.addEventListener("DOMContentLoaded", start);
  document.addEventListener("htmx:afterSwap", start);
  document.addEventListener("htmx:after:swap", start);

  document.addEventListener("change", (event) => {
    if (!live || !live.root.contains(event.target)) return;
    const { form } = live;
    if (event.target.form === form) {
      const engine = form.elements.engine;
      if (event.target === engine && engine.checked) form.querySelector("input[name=key][value=run]").checked = true;
      if (event.target.name === "key" && event.target.value !== "run") engine.checked = false;
      const sides = event.target.dataset.ref ? form.querySelectorAll(`input[data-ref="${CSS.escape(event.target.dataset.ref)}"]`) : [];
      for (const side of sides) if (side !== event.target && event.target.checked) side.checked = false;
      refresh();
    } else if (event.target.name === "meter") measure();
    else if (event.target.id === "find-part") find(event.target.value);
  });
  document.addEventListener("submit", (event) => {
    if (live && event.target === live.form) {
      event.preventDefault();
      refresh();
    }
  });
  document.addEventListener("click", (event) => {
    if (!live || !live.root.isConnected || !event.target.closest) return;
    const press = event.target.closest("[data-zoom],[data-all],[data-scenario],[data-fault],[data-probe],[data-clamp],[data-pick],[data-work],#touch,#mend,#let-open,#keep-reading,#replay,#truth-next");
    if (!press || !live.root.contains(press)) return;
    const { dataset, id } = press;
    if (dataset.zoom === "in") zoom(ZOOM);
    else if (dataset.zoom === "out") zoom(1 / ZOOM);
    else if (dataset.zoom === "fit") fit();
    else if (dataset.all) put({ key: "off", lights: "off", on: [], signal: [] });
    else if (dataset.scenario) put({ signal: [], ...JSON.parse(dataset.scenario) });
    else if (dataset.fault) {
      if (!live.faults.includes(dataset.fault)) live.faults.push(dataset.fault);
      refresh();
    } else if (dataset.probe) probe(dataset.probe, dataset.name);
    else if (dataset.clamp) clamp(dataset.clamp);
    else if (dataset.pick) {
      event.preventDefault();
      pick(dataset.pick, true);
    } else if (dataset.work) work(dataset.work);
    else if (id === "touch") {
      live.faults.push(`touch:${live.red.node}:${live.black.node}`);
      refresh();
    } else if (id === "mend") {
      live.faults = [];
      live.blown = [];
      refresh();
    } else if (id === "let-open") {
      live.blown.push(live.state.first);
      refresh();
    } else if (id === "keep-reading") note();
    else if (id === "replay") replay();
    else if (id === "truth-next") nextTruth();
  });

  // Hands on the sheet
  let drag = null;
  const pointers = new Map();
  document.addEventListener("pointerdown", (event) => {
    if (!live || !live.view.contains(event.target) || event.button !== 0) return;
    pointers.set(event.pointerId, event);
    if (live.map.contains(event.target)) {
      const spot = at(event, live.map);
      centre(spot.x, spot.y);
      return;
    }
    drag = { x: event.clientX, y: event.clientY, box: { ...live.box }, moved: false, target: event.target };
  });
  document.addEventListener("pointermove", (event) => {
    if (!live || !pointers.has(event.pointerId)) return;
    const before = pointers.get(event.pointerId);
    if (pointers.size === 2) {
      const [a, b] = [...pointers.values()];
      const was = Math.hypot(a.clientX - b.clientX, a.clientY - b.clientY);
      pointers.set(event.pointerId, event);
      const [c, d] = [...pointers.values()];
      const now = Math.hypot(c.clientX - d.clientX, c.clientY - d.clientY);
      if (was > 0) zoom(now / was);
      drag = null;
      return;
    }
    pointers.set(event.pointerId, event);
    if (!drag || !before) return;
    const dx = event.clientX - drag.x;
    const dy = event.clientY - drag.y;
    if (Math.hypot(dx, dy) > CLICK_PX) drag.moved = true;
    if (!drag.moved) return;
    const px = live.box.w / live.view.clientWidth;
    show({ ...drag.box, x: drag.box.x - dx * px, y: drag.box.y - dy * px });
  });
  const lift = (event) => {
    pointers.delete(event.pointerId);
    if (!drag) return;
    const { moved, target } = drag;
    drag = null;
    if (moved || event.type === "pointercancel") return;
    const spot = target.closest(".probe-spot");
    const part = target.closest(".sheet-wire, .sheet-device, .sheet-bar");
    if (spot) probe(spot.dataset.node, spot.dataset.name);
    else if (part) {
      const ref = part.dataset.wire || part.dataset.ref;
      if (part.classList.contains("device-switch")) work(ref);
      pick(ref, false);
    }
  };
  document.addEventListener("pointerup", lift);
  document.addEventListener("pointercancel", lift);
  document.addEventListener("wheel", (event) => {
    if (!live || !live.view.contains(event.target)) return;
    event.preventDefault();
    if (event.ctrlKey || event.metaKey || event.altKey) {
      const spot = at(event, live.svg);
      zoom(event.deltaY < 0 ? 1.12 : 1 / 1.12, spot.x, spot.y);
    } else {
      const px = live.box.w / live.view.clientWidth;
      show({ ...live.box, x: live.box.x + event.deltaX * px, y: live.box.y + event.deltaY * px });
    }
  }, { passive: false });
  document.addEventListener("keydown", (event) => {
    if (!live || event.target !== live.view || event.ctrlKey || event.metaKey || event.altKey) return;
    const step = live.box.w / 12;
    const moves = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step], PageDown: [0, live.box.h * 0.8], PageUp: [0, -live.box.h * 0.8] };
    if (moves[event.key]) show({ ...live.box, x: live.box.x + moves[event.key][0], y: live.box.y + moves[event.key][1] });
    else if (event.key === "+" || event.key === "=") zoom(ZOOM);
    else if (event.key === "-") zoom(1 / ZOOM);
    else if (event.key === "f" || event.key === "F") fit();
    else if (event.key === "Home") fitFirst();
    else return;
    event.preventDefault();
  });
})();
