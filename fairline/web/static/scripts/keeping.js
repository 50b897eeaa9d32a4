// Keeping: what is typed is sent, numbered, sent again where it failed, and never overwritten by an
// answer to older text.

import { saysNo } from "./sending.js";

const ORDERS = ["_add", "_remove", "_put", "_edit", "_as", "_settle"];

// Every change of an entry is counted, and every save is numbered and knows how many changes it
// carries: a save overtaken on its way never undoes a later one, and an answer to older text
// never replaces newer text.
let changes = 0;
let answered = 0;
let turn = 0;
let ordered = false;
const meanwhile = []; // what was changed while an order was on its way
const carried = new Map(); // number of a save: changes it carries
const changed = new Map(); // id of a field: the number of its last change
const showKeeping = () => {
  const said = answered < changes && document.querySelector("#kept :is(.is-kept, .as-typed)");
  if (said) said.textContent = "Keeping …";
};
for (const kind of ["input", "change"]) {
  const count = (event) => {
    if (!event.target.closest("form.entry") || event.target.matches(".order")) return;
    changes += 1;
    changed.set(event.target.id, changes);
    showKeeping();
  };
  document.addEventListener(kind, count, true); // before the save that it leads to
}
document.addEventListener("htmx:configRequest", (event) => {
  const { elt, parameters } = event.detail;
  if (!elt.closest("form.entry")) return;
  turn += 1;
  parameters._turn = String(turn);
  carried.set(String(turn), changes);
  // A row button that only has the focus is no order: just its own request carries it.
  if (!elt.matches("button, .order")) for (const name of ORDERS) delete parameters[name];
});
document.addEventListener("htmx:beforeSwap", (event) => {
  const { elt, parameters } = event.detail.requestConfig ?? {};
  if (!elt?.closest("form.entry")) return;
  const at = carried.get(parameters._turn);
  carried.delete(parameters._turn);
  answered = Math.max(answered, at);
  if (elt.matches("button, .order")) {
    // A row was added or taken out: it is shown in any case, and what was changed meanwhile is
    // put back into it, for the save that is on its way.
    ordered = true;
    for (const [id, when] of changed) {
      const field = when > at && document.getElementById(id);
      if (field) meanwhile.push([id, field.value, field.checked]);
    }
  } else if (at !== changes) event.detail.shouldSwap = false;
});
// A save that the server could not keep (no signal, a full disk) is said, and tried again.
let again = 0;
const whyNot = (status) => {
  if (status === 507) return "The disk is full";
  return status ? "The server cannot keep it" : "The server does not answer";
};
const notKept = (event) => {
  const form = event.detail.elt.closest("form.entry");
  const status = event.detail.xhr?.status ?? 0;
  if (!form) return;
  const kept = document.getElementById("kept");
  const said = kept.querySelector(".is-kept, .as-typed, .not-kept") ?? kept;
  if (status && status < 500) { // the job is gone, or handed over: trying again would not help
    said.textContent = `Not kept. ${saysNo(event.detail.xhr.responseText)}`;
    return;
  }
  said.textContent = `Not kept yet: ${whyNot(status)}. It is tried again.`;
  clearTimeout(again);
  const anew = () => form.isConnected && form.dispatchEvent(new Event("change", { bubbles: true }));
  again = setTimeout(anew, 4000);
};
document.addEventListener("htmx:responseError", notKept);
document.addEventListener("htmx:sendError", notKept);
document.addEventListener("htmx:afterSwap", () => {
  ordered = false;
  for (const [id, value, checked] of meanwhile.splice(0)) {
    const field = document.getElementById(id);
    if (field?.type === "radio" || field?.type === "checkbox") field.checked = checked;
    else if (field) field.value = value;
  }
  showKeeping();
});

// An order chosen from a list is one request of its own: the form does not save it as well.
for (const kind of ["input", "change"]) {
  document.addEventListener(kind, (event) => {
    if (!event.target.matches(".order")) return;
    event.target.addEventListener(kind, (e) => e.stopPropagation(), { once: true });
  }, true);
}

/** Whether a change of the entry is not answered yet. */
export const underWay = () => answered < changes;

/** Whether an order's answer is on its way into the page: it is shown in any case. */
export const ordering = () => ordered;
