// Guarding: what comes back leaves alone what a person is at.

import { ordering, underWay } from "./keeping.js";

// While a finger is down nothing moves under it: an answer that comes then is asked for again.
let pressed = false;
let skipped = null;
document.addEventListener("htmx:beforeSwap", (event) => {
  const { elt } = event.detail.requestConfig ?? {};
  const form = elt?.closest("form.entry");
  if (!form || elt.matches("button, .order") || !event.detail.shouldSwap || !pressed) return;
  event.detail.shouldSwap = false;
  skipped = form;
});
document.addEventListener("pointerdown", (event) => {
  pressed = !event.target.closest(".piece");
}, true);
for (const kind of ["pointerup", "pointercancel"]) {
  document.addEventListener(kind, () => {
    pressed = false;
    setTimeout(() => {
      if (pressed || !skipped) return;
      skipped.dispatchEvent(new Event("change", { bubbles: true }));
      skipped = null;
    }, 50);
  }, true);
}

// An answer that a newer one overtook is not put over it: what was done since would seem undone.
// A refusal is shown in any case; an entry asks anew, for what only its own answer tells it.
const overtaken = (answer) => {
  const shown = Number(document.getElementById("job")?.dataset.revision);
  const told = answer?.match(/id="job"[^>]* data-revision="(\d+)"/)?.[1];
  return Number(told) < shown && !answer.includes('aria-invalid="true"');
};
document.addEventListener("htmx:beforeSwap", (event) => {
  const { requestConfig, serverResponse, shouldSwap } = event.detail;
  if (requestConfig?.verb !== "post" || !shouldSwap || !overtaken(serverResponse)) return;
  event.detail.shouldSwap = false;
  const { elt } = requestConfig;
  if (elt.matches("form.entry")) setTimeout(() => elt.dispatchEvent(new Event("change", { bubbles: true })));
});

// A field that is being typed in is never overwritten by what comes back; a button in focus is.
document.addEventListener("focusin", (event) => {
  const typing = "input:not([type=radio]):not([type=checkbox]), textarea";
  Idiomorph.defaults.ignoreActiveValue = event.target.matches(typing);
});

// What comes back leaves alone what a person is at: a form that is being filled in and was not
// sent, an entry with changes under way, and what was opened on the plate.
const touched = new WeakSet();
const sent = new WeakSet();
document.addEventListener("input", (event) => {
  const form = event.target.closest("form:not(.entry)");
  if (form) touched.add(form);
});
document.addEventListener("htmx:beforeRequest", (event) => {
  const form = event.detail.elt.closest("form:not(.entry)");
  if (!form) return;
  touched.delete(form);
  const details = form.closest("details.record");
  if (details) sent.add(details);
});
// The unit beside a field that is being typed in stays as that is: the two are read together.
const besideActive = (node) => node instanceof HTMLElement && node.matches("select.unit")
  && node.previousElementSibling === document.activeElement;
/** A form that is being filled in keeps what stands in it, but goes where it goes by now. */
const goesWhere = (old, now) => {
  for (const name of ["action", "hx-post"]) {
    const at = now.getAttribute?.(name);
    if (at && at !== old.getAttribute(name)) old.setAttribute(name, at);
  }
  for (const hidden of old.querySelectorAll("input[type=hidden]")) {
    const same = now.querySelectorAll?.(`input[type=hidden][name="${CSS.escape(hidden.name)}"]`) ?? [];
    if (same.length === 1) hidden.value = same[0].value;
  }
};
Idiomorph.defaults.callbacks.beforeNodeMorphed = (old, now) => {
  if (besideActive(old)) return false;
  if (!(old instanceof HTMLFormElement)) return true;
  if (touched.has(old)) {
    goesWhere(old, now);
    return false;
  }
  return !(old.matches(".entry") && underWay() && !ordering());
};
Idiomorph.defaults.callbacks.beforeAttributeUpdated = (attribute, element) => {
  if (attribute !== "open" || !element.matches("details.more, details.record")) return true;
  return sent.delete(element);
};
