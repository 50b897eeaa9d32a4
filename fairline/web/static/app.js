// What the pages do by themselves: the keys, the line's place, a guard for what is not kept yet.
(() => {
  const root = document.documentElement;
  root.classList.add("scripted");

  // A field that is being typed in is never overwritten by what comes back.
  if (window.Idiomorph) Idiomorph.defaults.ignoreActiveValue = true;

  const showPlace = () => {
    const here = document.querySelector(".line .here");
    const line = here?.closest(".line");
    if (!line || line.scrollWidth <= line.clientWidth) return;
    line.scrollLeft = here.offsetLeft - (line.clientWidth - here.offsetWidth) / 2;
  };
  document.addEventListener("DOMContentLoaded", showPlace);

  // Leaving while a change is on its way would lose it: ask first.
  let unsent = false;
  document.addEventListener("input", (event) => {
    if (event.target.closest("form.entry")) unsent = true;
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.target.closest?.("form.entry") || event.detail.elt?.matches?.("form.entry")) unsent = false;
  });
  window.addEventListener("beforeunload", (event) => {
    if (unsent) event.preventDefault();
  });
  document.addEventListener("htmx:afterSwap", showPlace);

  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-print]")) window.print();
    const link = event.target.closest("a.do-next[href^='#at-']");
    if (!link) return;
    const place = document.getElementById(link.getAttribute("href").slice(1));
    if (!place) return;
    event.preventDefault();
    place.querySelector("details.record")?.setAttribute("open", "");
    const field = place.matches("input") ? place : place.querySelector("input:not([type=hidden]), select, textarea, button");
    place.scrollIntoView({ block: "center" });
    field?.focus({ preventScroll: true });
  });

  document.addEventListener("alpine:init", () => {
    Alpine.data("keys", () => ({
      pressed(event) {
        const typing = event.target.closest?.("input, select, textarea, [contenteditable]");
        if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
        const joints = [...document.querySelectorAll("#job .line .joint a")];
        const here = joints.findIndex((a) => a.hasAttribute("aria-current"));
        const goes = { n: joints[here + 1], p: joints[here - 1] }[event.key];
        if (goes && here >= 0) goes.click();
        else if (event.key === "j") document.querySelector(".mark").click();
        else if (event.key === "w") {
          const working = document.querySelector(".plate .working");
          if (working) working.open = !working.open;
        } else if (event.key === "?") this.$refs.keys.showModal();
      },
    }));
  });
})();
