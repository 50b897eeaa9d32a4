// Typing with a thumb: the keys that a number pad lacks stand in a row above it.

const touched = matchMedia("(pointer: coarse)");
let row = null;
let field = null;

const close = () => {
  row?.remove();
  row = field = null;
};
const put = (key) => {
  field.setRangeText(key, field.selectionStart, field.selectionEnd, "end");
  field.dispatchEvent(new Event("input", { bubbles: true }));
};
const open = (input) => {
  close();
  field = input;
  row = document.createElement("div");
  row.className = "keys-above";
  for (const key of input.dataset.keysAbove.split(" ")) {
    const button = document.createElement("button");
    button.type = "button";
    button.tabIndex = -1;
    button.textContent = key;
    button.addEventListener("pointerdown", (event) => {
      event.preventDefault(); // the field keeps the focus, and the keyboard stays
      put(key === "␣" ? " " : key);
    });
    row.append(button);
  }
  document.body.append(row);
};
document.addEventListener("focusin", (event) => {
  if (touched.matches && event.target.matches?.("[data-keys-above]")) open(event.target);
});
document.addEventListener("focusout", close);

// The row stands on the keyboard, however the browser makes room for it.
const stand = () => {
  const view = window.visualViewport;
  const under = Math.max(0, window.innerHeight - view.height - view.offsetTop);
  document.documentElement.style.setProperty("--keyboard", `${under}px`);
};
window.visualViewport?.addEventListener("resize", stand);
window.visualViewport?.addEventListener("scroll", stand);
