// What is asked of the server, and what it answers.

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
