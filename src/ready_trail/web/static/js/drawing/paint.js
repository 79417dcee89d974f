// What is seen: the state painted onto the sheet, its rows, its faults, its heat.

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
  for (const bar of every(".sheet-bar")) {
    const volts = bar.dataset.node === "0" ? 0 : state.nodes[bar.dataset.node] || 0;
    bar.classList.toggle("is-hot", volts > 1);
  }
  gauge(state);
  heads();
  document.getElementById("scenario").value = "";
  const count = document.getElementById("on-count");
  if (count) count.textContent = live.form.querySelectorAll("#switches input:checked").length || "";
  document.getElementById("summary").textContent = state.summary;
  rows(state);
  faultList(state);
};
// Each battery by its name; what gives or takes nothing beside the first is left to its title.
const gauge = (state) => {
  const parts = state.trouble ? [] : state.sources.filter((source, at) => !at || Math.abs(source.a) >= 0.05);
  const said = parts.map((source) => {
    const word = document.createElement("span");
    const figure = document.createElement("strong");
    figure.className = "figure";
    figure.textContent = `${source.v.toFixed(1)} V ${source.a.toFixed(1)} A`;
    word.append(parts.length > 1 ? `${source.name} ` : "", figure);
    return word;
  });
  if (state.trouble) said.push("–");
  if (state.chatter.length) said.push(`${state.chatter.join(", ")} chatters`);
  document.getElementById("gauge").replaceChildren(...said);
};
const rows = (state) => {
  const body = document.getElementById("live-rows");
  for (const [number, load] of state.loads.entries()) {
    const row = body.children[number];
    if (!row) continue;
    row.className = `${load.on ? "is-on" : ""}${load.lacks ? " lacks" : ""}`;
    row.children[1].textContent = load.lacks ? "low" : load.on ? "live" : "off";
    row.children[2].textContent = load.v.toFixed(1);
    row.children[3].textContent = load.a.toFixed(1);
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
  const rail = document.getElementById("rail-faults");
  if (any && rail.hidden) beside("faults");
  rail.hidden = !any;
  if (!any && live.side === "faults") beside("");
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
