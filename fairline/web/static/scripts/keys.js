// Keys: single keys to go along the line, and the browser's own keys for taking back.

const TYPED = "input:not([type=radio]):not([type=checkbox]), textarea";
const commanded = (event) => event.ctrlKey || event.metaKey;

// Ctrl Z takes back the newest edit of this page, Ctrl Shift Z or Ctrl Y does it again; within a
// text field it is the browser's own.
const wanted = (event) => {
  if (!commanded(event) || event.altKey || event.target.closest?.(TYPED)) return null;
  const key = event.key.toLowerCase();
  if (key === "y" || (key === "z" && event.shiftKey)) return "redo";
  return key === "z" ? "undo" : null;
};
document.addEventListener("keydown", (event) => {
  const name = wanted(event);
  const button = name && document.getElementById(name);
  if (!button) return;
  event.preventDefault();
  button.click();
});

/** To the joint of the line that is so many further on. */
const along = (by) => {
  const joints = [...document.querySelectorAll("#job .line .joint a")];
  const here = joints.findIndex((a) => a.hasAttribute("aria-current"));
  if (here >= 0) joints[here + by]?.click();
};
const fold = () => {
  const working = document.querySelector(".plate .working");
  if (working) working.open = !working.open;
};
const SINGLE = {
  n: () => along(1),
  p: () => along(-1),
  j: () => document.querySelector(".mark").click(),
  w: fold,
};

// They can be switched off, and never fire while a link or a button has the focus.
const OFF = "fairline-keys-off";
const AT = "input, select, textarea, a, button, summary, dialog, [contenteditable], .piece, [role=button]";
const showOverlay = () => document.getElementById("keys").showModal();
document.addEventListener("keydown", (event) => {
  if (commanded(event) || event.altKey) return;
  const at = event.target.closest?.(AT);
  if (at && !at.closest("dialog:not([open])")) return; // a closed list may hold the focus a moment
  if (event.key === "?") showOverlay();
  else if (!localStorage.getItem(OFF)) SINGLE[event.key]?.();
});
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-keys]")) showOverlay();
});
document.addEventListener("change", (event) => {
  if (event.target.id !== "keys-on") return;
  if (event.target.checked) localStorage.removeItem(OFF);
  else localStorage.setItem(OFF, "1");
});
document.addEventListener("DOMContentLoaded", () => {
  document.getElementById("keys-on").checked = !localStorage.getItem(OFF);
});
