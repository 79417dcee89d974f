// On a phone each row is a card as wide as the screen; a swipe goes to the next.

const dealCards = async () => {
  const answer = await fetch(`${live.root.dataset.base}/rows`);
  if (!answer.ok) return; // the whole sheet stays
  live.cards.innerHTML = await answer.text();
  gather();
  for (const part of live.wires) part.amps = -1;
  showCards(true);
  paint(live.state);
  if (live.picked) showPiece(live.picked);
  else {
    const card = firstRow([...live.cards.querySelectorAll(".row-card")].map((card) => card.querySelector(".row-group") || card));
    if (card) toCard(card.closest(".row-card"));
  }
};
const hasCards = () => !live.cards.hidden;
const showCards = (cards) => {
  if (cards && !live.cards.children.length) return;
  live.cards.hidden = !cards;
  live.root.classList.toggle("has-cards", cards);
  document.getElementById("rows-or-whole").textContent = cards ? "Whole sheet" : "Row by row";
  if (!cards) fitFirst();
};
const toCard = (card) => {
  if (card) live.cards.scrollTo({ left: card.offsetLeft - live.cards.offsetLeft });
};
const nextCard = (step) => {
  const cards = [...live.cards.children];
  const now = Math.round(live.cards.scrollLeft / Math.max(1, live.cards.clientWidth));
  toCard(cards[Math.min(cards.length - 1, Math.max(0, now + step))]);
};
