// States set from elsewhere: an address, a replay, a truth table.

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
