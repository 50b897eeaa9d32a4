// After an act the page stands where the next act is: the next joint, the next reading, the row
// that was added. On a desk its first field takes the focus; on a phone no keyboard pops up.

const byHand = matchMedia("(pointer: fine)");
const FIELDS = "input:not([type=hidden]):not([disabled]), select:not(.unit), textarea";

const focusIn = (place) => {
  const field = place.matches(FIELDS) ? place : place.querySelector(FIELDS);
  if (byHand.matches) field?.focus({ preventScroll: true });
};
/** Whether a person is at another field by now than those of what was sent: it is left alone. */
const elsewhere = (sent) => {
  const at = document.activeElement;
  return at?.matches(FIELDS) && !(sent.closest("form") ?? sent).contains(at);
};
// Who typed after sending is at the next thing already: the focus stays there.
let sentAt = 0;
let typedAt = 0;
document.addEventListener("htmx:beforeRequest", (event) => {
  if (event.detail.requestConfig?.verb === "post") sentAt = Date.now();
});
document.addEventListener("input", (event) => {
  if (event.target.matches?.(FIELDS)) typedAt = Date.now();
});
const wentOn = () => typedAt > sentAt && document.activeElement?.matches(FIELDS);
const seen = (element) => {
  const { top, bottom } = element.getBoundingClientRect();
  return top >= 60 && bottom <= window.innerHeight - 150;
};

/** What a button of a row list ordered: ``{ added: "legs" }`` or ``{ removed: "legs" }``. */
const order = (elt) => {
  if (!elt.matches?.("button[name=_add]:not([value$='*']), button[name=_remove]")) return null;
  return elt.name === "_add"
    ? { added: elt.value }
    : { removed: elt.value.slice(0, elt.value.lastIndexOf(".")) };
};
const newRow = (list) => {
  const rows = [...document.querySelectorAll(`#entry [name^="${CSS.escape(list)}."]`)]
    .filter((field) => field.matches(FIELDS));
  const number = (field) => parseInt(field.name.slice(list.length + 1), 10);
  const last = Math.max(...rows.map(number));
  const first = rows.find((field) => number(field) === last);
  if (!first) return;
  if (!seen(first)) first.scrollIntoView({ block: "center" });
  focusIn(first);
};
/** Where the bar's link leads, if that is on this page. */
const ofTheBar = () => {
  const link = document.querySelector("#dock a.dock-act");
  const here = link?.pathname === location.pathname && [link.search, ""].includes(location.search);
  return here && link.hash ? document.getElementById(decodeURIComponent(link.hash.slice(1))) : null;
};
const standAt = (place) => {
  const wrong = document.querySelector("#job [aria-invalid=true]");
  const next = wrong?.closest("form, .field") ?? place;
  if (!next) return;
  if (wrong || !seen(next)) next.scrollIntoView({ block: wrong ? "center" : "start" });
  focusIn(wrong ?? next);
};
// Of several sheets that do not say something, one follows another.
const ofTheSheets = (elt) => elt.closest(".silent-sheet") && document.querySelector(".silent-sheet[open]");
const standAtNext = () => standAt(document.querySelector("#job [data-next]") ?? ofTheBar());
document.addEventListener("click", (event) => {
  const wrong = event.target.closest?.("a[data-wrong]") && document.querySelector("#job [aria-invalid=true]");
  if (!wrong) return;
  event.preventDefault();
  wrong.scrollIntoView({ block: "center" });
  focusIn(wrong);
});
const FILLS = "button[name=_put], button[name=_as], button[name=_edit], button[name=_add][value$='*']";
/** An order that fills in or draws: its page stands where the bar leads, if it leads on here. */
const fills = (elt) => elt.matches?.(FILLS);
// What is typed into such a field is an order: as if its button had been pressed.
document.addEventListener("change", (event) => {
  const button = document.getElementById(event.target.dataset?.orders ?? "");
  if (button && event.target.value.trim()) button.click();
});
const afterOrder = ({ added, removed }) => {
  const adds = document.getElementById(`b_add-${removed}`);
  if (removed) adds?.focus({ preventScroll: true });
  else if (!document.activeElement?.matches(FIELDS)) newRow(added);
};
const afterAct = (elt) => {
  if (elt.closest("form.entry") || elsewhere(elt) || wentOn()) return;
  const sheet = ofTheSheets(elt);
  if (sheet) standAt(sheet);
  else standAtNext();
};
document.addEventListener("htmx:afterSettle", (event) => {
  const { elt, verb } = event.detail.requestConfig ?? {};
  if (!elt || verb !== "post") return;
  const ordered = order(elt);
  if (ordered) afterOrder(ordered);
  else if (fills(elt)) standAt(ofTheBar());
  else afterAct(elt);
});

// A caution is folded once it was read on this job.
const MOST = 60;
document.addEventListener("toggle", (event) => {
  const { target } = event;
  if (!target.matches?.("details.caution") || target.open) return;
  const kept = document.cookie.match(/(?:^|; )fairline_read=([^;]*)/)?.[1] ?? "";
  const marks = kept.split("_").filter((mark) => mark && mark !== target.dataset.mark);
  const all = [...marks, target.dataset.mark].slice(-MOST).join("_");
  document.cookie = `fairline_read=${all}; path=/; max-age=31536000; samesite=lax`;
}, true);
