// A task moved in the drawing of a plan, by finger, mouse or arrow keys: its new beginning, and in
// the drawing by person who does it, go into the form below, and all is planned again.

const STEP_MIN = 15;
const form = () => document.getElementById("move-by-hand");
let moved = null; // the bar in hand, where it was taken, and how far it has come

const days = (svg) => JSON.parse(svg.dataset.days);
const asMinutes = (text) => Date.parse(`${text}:00Z`) / 60_000;
const asText = (minutes) => new Date(minutes * 60_000).toISOString().slice(0, 16);

/** The moment at a place across, on a quarter of an hour. */
const momentAt = (svg, x) => {
  const all = days(svg);
  const day = all.find(([, x1]) => x <= x1) ?? all.at(-1);
  const [x0, x1, opens, closes] = day;
  const share = Math.max(0, Math.min(1, (x - x0) / (x1 - x0)));
  const minutes = asMinutes(opens) + share * (asMinutes(closes) - asMinutes(opens));
  return Math.round(minutes / STEP_MIN) * STEP_MIN;
};

const across = (svg, minutes) => {
  const text = asText(minutes);
  const day = days(svg).find(([, , opens]) => opens.slice(0, 10) === text.slice(0, 10));
  if (!day) return null;
  const [x0, x1, opens, closes] = day;
  return x0 + ((minutes - asMinutes(opens)) / (asMinutes(closes) - asMinutes(opens))) * (x1 - x0);
};

const unitsPerPixel = (svg) => {
  const [, , wide] = svg.getAttribute("viewBox").split(" ").map(Number);
  return wide / svg.getBoundingClientRect().width;
};

const say = (words) => {
  const status = document.getElementById("moving");
  if (status) status.textContent = words;
};

const told = (minutes, who) => `${asText(minutes).replace("T", " ")}${who ? `, ${who}` : ""}`;

const left = (bar) => Number(bar.querySelector("rect:not(.touch)").getAttribute("x"));

/** The person whose row lies so far below the bar's own. */
const personAt = (bar, dy) => {
  const svg = bar.closest("svg");
  const own = bar.parentElement.dataset.who;
  if (!own) return "";
  const names = [...new Set([...svg.querySelectorAll("[data-who]")].map((g) => g.dataset.who))];
  const at = names.indexOf(own) + Math.round(dy / Number(svg.dataset.row));
  return names[Math.max(0, Math.min(names.length - 1, at))];
};

const send = (bar, minutes, who) => {
  const to = form();
  if (!to) return;
  to.elements.task.value = bar.dataset.task;
  to.elements.earliest.value = asText(minutes);
  to.elements.who.disabled = !who || who === bar.parentElement.dataset.who;
  to.elements.who.value = who;
  say("Planning again …");
  to.requestSubmit();
};

const put = (bar, dx, dy) => bar.setAttribute("transform", `translate(${dx} ${dy})`);

document.addEventListener("pointerdown", (event) => {
  const bar = event.target.closest?.(".bar[data-movable]");
  if (!bar || event.button) return;
  event.preventDefault();
  bar.focus();
  bar.setPointerCapture(event.pointerId);
  moved = { bar, x: event.clientX, y: event.clientY, dx: 0, dy: 0, far: false };
});

document.addEventListener("pointermove", (event) => {
  if (!moved) return;
  const { bar } = moved;
  const units = unitsPerPixel(bar.closest("svg"));
  moved.dx = (event.clientX - moved.x) * units;
  moved.dy = bar.parentElement.dataset.who ? (event.clientY - moved.y) * units : 0;
  moved.far ||= Math.hypot(moved.dx, moved.dy) > 6;
  if (!moved.far) return;
  put(bar, moved.dx, moved.dy);
  const at = momentAt(bar.closest("svg"), left(bar) + moved.dx);
  say(told(at, personAt(bar, moved.dy)));
});

document.addEventListener("pointerup", () => {
  if (!moved) return;
  const { bar, dx, dy, far } = moved;
  moved = null;
  if (!far) {
    const fields = document.getElementById("move");
    const url = new URL(window.location.href);
    url.searchParams.set("task", bar.dataset.task);
    url.hash = "move";
    if (fields) window.location.assign(url);
    return;
  }
  send(bar, momentAt(bar.closest("svg"), left(bar) + dx), personAt(bar, dy));
});

document.addEventListener("pointercancel", () => {
  if (moved) put(moved.bar, 0, 0);
  moved = null;
});

// Keys: arrows move it by a quarter of an hour or to another person, Enter plans, Escape puts back.
const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** Where the keys have brought a bar: its minute, and how far down its row lies. */
const brought = (bar) => [
  Number(bar.dataset.at ?? asMinutes(bar.dataset.start)),
  Number(bar.dataset.rows ?? 0) * Number(bar.closest("svg").dataset.row ?? 0),
];

const stepped = (bar, [across_, down_], far) => {
  const svg = bar.closest("svg");
  bar.dataset.at = brought(bar)[0] + across_ * STEP_MIN * (far ? 4 : 1);
  bar.dataset.rows = Number(bar.dataset.rows ?? 0) + (svg.dataset.row ? down_ : 0);
  const [at, down] = brought(bar);
  const x = across(svg, at);
  put(bar, x === null ? 0 : x - left(bar), down);
  say(told(at, personAt(bar, down)));
};

document.addEventListener("keydown", (event) => {
  const bar = event.target.closest?.(".bar[data-movable]");
  if (!bar) return;
  if (STEPS[event.key]) {
    event.preventDefault();
    stepped(bar, STEPS[event.key], event.shiftKey);
  } else if (event.key === "Enter" || event.key === " ") {
    event.preventDefault();
    const [at, down] = brought(bar);
    send(bar, at, personAt(bar, down));
  } else if (event.key === "Escape") {
    delete bar.dataset.at;
    delete bar.dataset.rows;
    put(bar, 0, 0);
    say("");
  }
});
