// What is measured: volts, ohms, amps, each beside what the design expects.

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
  for (const spot of every(".probe-spot")) {
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
