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

document.addEventListener("alpine:init", () => {
  Alpine.data("keys", () => ({
    pressed(event) {
      const typing = event.target.closest?.("input, select, textarea, [contenteditable]");
      if (typing || commanded(event) || event.altKey) return;
      if (event.key === "?") this.$refs.keys.showModal();
      else SINGLE[event.key]?.();
    },
  }));
});
