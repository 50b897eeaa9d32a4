// Ahead: without signal the next joint opens, though what was recorded at this one still waits.

const cards = new Map(); // by the place of a joint, in the order one works
let asked = "";
const ask = async () => {
  const at = location.pathname;
  if (asked === at || !document.querySelector(".joint-card[data-place]")) return;
  asked = at;
  try {
    const answer = await fetch(`${at}/ahead`);
    if (!answer.ok) return;
    const page = new DOMParser().parseFromString(await answer.text(), "text/html");
    for (const card of page.querySelectorAll(".joint-card")) cards.set(card.dataset.place, card);
  } catch {
    asked = ""; // it is asked again when there is a signal
  }
};
window.addEventListener("load", () => setTimeout(ask, 500));
window.addEventListener("online", ask);

/** The bar under the thumb says what the card says. */
const said = (card) => {
  const words = document.querySelector(".dock-call > span");
  if (!words) return;
  const of = document.createElement("strong");
  of.textContent = `${card.dataset.label}: `;
  words.replaceChildren(of, card.dataset.says);
  card.querySelector("button[name=even]")?.classList.add("act");
};
document.addEventListener("fairline:waits", ({ detail: { elt, path, waiting } }) => {
  const card = elt.closest(".joint-card");
  if (!card || !path.includes("/flare/joints")) return;
  const done = new Set(waiting.map(({ fields }) => fields.find(([name]) => name === "place")?.[1]));
  const row = document.querySelector(`[data-of="${CSS.escape(card.dataset.place)}"] em`);
  if (row) row.textContent = "waits to be sent";
  const places = [...cards.keys()];
  const later = places.slice(places.indexOf(card.dataset.place) + 1);
  const next = cards.get([...later, ...places].find((place) => !done.has(place)))?.cloneNode(true);
  if (!next) return;
  const who = next.querySelector("[name=by]");
  if (who) who.value = waiting.at(-1).fields.find(([name]) => name === "by")?.[1] ?? who.value;
  card.replaceWith(next);
  htmx.process(next);
  said(next);
  history.replaceState(history.state, "", `?joint=${encodeURIComponent(next.dataset.place)}`);
  next.scrollIntoView({ block: "start" });
});
