// What the pages do by themselves: each script beside this one has one idea.

import "./keeping.js";
import "./leaving.js";
import "./guarding.js";
import "./sending.js";
import "./keys.js";
import "./typing.js";
import "./standing.js";
import "./clocks.js";
import "./streaming.js";

document.documentElement.classList.add("scripted");
navigator.serviceWorker?.register("/worker.js"); // where the connection is secure

const showPlace = () => {
  for (const here of document.querySelectorAll(".line .here")) {
    const line = here.closest(".line");
    line.scrollLeft = here.offsetLeft - (line.clientWidth - here.offsetWidth) / 2;
  }
  for (const here of document.querySelectorAll(".parts [aria-current]")) {
    const parts = here.closest(".parts");
    parts.scrollLeft = here.offsetLeft - parts.offsetLeft - 40;
  }
};
document.addEventListener("DOMContentLoaded", showPlace);
document.addEventListener("htmx:afterSwap", showPlace);

// A picture goes on its way as soon as it is taken.
document.addEventListener("change", (event) => {
  if (event.target.matches("[data-sends]")) event.target.form.requestSubmit();
});

// What is to be done next leads to its place: all that folds it away opened, its field in focus.
const FIELDS = "input:not([type=hidden]), select, textarea, button, a[href]";
const arrive = (place) => {
  for (let fold = place.closest("details"); fold; fold = fold.parentElement.closest("details")) {
    fold.open = true;
  }
  place.querySelector("details.record")?.setAttribute("open", "");
  const field = place.matches(FIELDS) ? place : place.querySelector(FIELDS);
  const tall = place.getBoundingClientRect().height > window.innerHeight / 2;
  place.scrollIntoView({ block: tall ? "start" : "center" });
  field?.focus({ preventScroll: true });
};
const placeOf = (hash) => hash.length > 1 && document.getElementById(decodeURIComponent(hash.slice(1)));
const arriveByAddress = () => {
  const place = location.hash.startsWith("#at-") && placeOf(location.hash);
  if (place) arrive(place);
};
window.addEventListener("load", arriveByAddress);
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-print]")) window.print();
  const link = event.target.closest("a:is(.do-next, .dock-act)[href^='#']");
  const place = link && placeOf(link.getAttribute("href"));
  if (!place) return;
  event.preventDefault();
  document.getElementById("plate")?.hidePopover?.();
  arrive(place);
});

// The browser knows the time zone: pages show it, and the first job tells it to the house.
const ownZone = Intl.DateTimeFormat().resolvedOptions().timeZone ?? "";
document.cookie = `fairline_zone=${encodeURIComponent(ownZone)};path=/;max-age=31536000;samesite=lax`;
for (const field of document.querySelectorAll("[data-zone]")) {
  field.value = ownZone;
}

// The plate is pulled up from its bar, and pushed down again by its head.
const PULL_PX = 24;
let from = null;
let pulled = false; // the click at the end of a pull is part of it
document.addEventListener("pointerdown", (event) => {
  pulled = false;
  const handle = event.target.closest(".dock-call, .plate-head");
  from = handle && { y: event.clientY, up: handle.matches(".dock-call") };
});
document.addEventListener("pointermove", (event) => {
  if (!from || Math.abs(event.clientY - from.y) < PULL_PX) return;
  const plate = document.getElementById("plate");
  const up = event.clientY < from.y;
  if (plate && up === from.up && plate.matches(":popover-open") !== up) plate.togglePopover(up);
  from = null;
  pulled = true;
});
document.addEventListener("click", (event) => {
  if (pulled) event.preventDefault();
  pulled = false;
}, true);
for (const kind of ["pointerup", "pointercancel"]) document.addEventListener(kind, () => { from = null; });
