// What the pages do by themselves: the keys, the line's place, a guard for what is not kept yet.
(() => {
  const root = document.documentElement;
  root.classList.add("scripted");

  // A field that is being typed in is never overwritten by what comes back; a button in focus is.
  document.addEventListener("focusin", (event) => {
    const typing = "input:not([type=radio]):not([type=checkbox]), textarea";
    Idiomorph.defaults.ignoreActiveValue = event.target.matches(typing);
  });

  const showPlace = () => {
    for (const here of document.querySelectorAll(".line .here")) {
      const line = here.closest(".line");
      line.scrollLeft = here.offsetLeft - (line.clientWidth - here.offsetWidth) / 2;
    }
  };
  document.addEventListener("DOMContentLoaded", showPlace);

  // Every change of an entry is counted, and every save is numbered and knows how many changes it
  // carries: a save overtaken on its way never undoes a later one, and an answer to older text
  // never replaces newer text.
  let changes = 0;
  let answered = 0;
  let turn = 0;
  const carried = new Map(); // number of a save: changes it carries
  const changed = new Map(); // id of a field: the number of its last change
  const showKeeping = () => {
    const said = answered < changes && document.querySelector("#kept .is-kept");
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
    if (!elt.matches("button, .order")) for (const name of ["_add", "_remove", "_put", "_edit", "_settle"]) delete parameters[name];
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
    else if (pressed) {
      event.detail.shouldSwap = false;
      skipped = elt.closest("form.entry");
    }
  });
  // A save that the server could not keep (no signal, a full disk) is said, and tried again.
  let again = 0;
  const notKept = (event) => {
    const form = event.detail.elt.closest("form.entry");
    const status = event.detail.xhr?.status ?? 0;
    if (!form || (status && status < 500)) return;
    const said = document.querySelector("#kept .is-kept, #kept .not-kept") ?? document.getElementById("kept");
    const full = status === 507 ? "The disk is full" : status ? "The server cannot keep it" : "The server does not answer";
    said.textContent = `Not kept yet: ${full}. It is tried again.`;
    clearTimeout(again);
    again = setTimeout(() => form.isConnected && form.dispatchEvent(new Event("change", { bubbles: true })), 4000);
  };
  document.addEventListener("htmx:responseError", notKept);
  document.addEventListener("htmx:sendError", notKept);
  let ordered = false;
  const meanwhile = [];
  document.addEventListener("htmx:afterSwap", () => {
    ordered = false;
    for (const [id, value, checked] of meanwhile.splice(0)) {
      const field = document.getElementById(id);
      if (field?.type === "radio" || field?.type === "checkbox") field.checked = checked;
      else if (field) field.value = value;
    }
    showKeeping();
  });

  // While a finger is down nothing moves under it: an answer that comes then is asked for again.
  let pressed = false;
  let skipped = null;
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
  Idiomorph.defaults.callbacks.beforeNodeMorphed = (old) => {
    if (!(old instanceof HTMLFormElement)) return true;
    return !(touched.has(old) || (old.matches(".entry") && answered < changes && !ordered));
  };
  Idiomorph.defaults.callbacks.beforeAttributeUpdated = (attribute, element) => {
    if (attribute !== "open" || !element.matches("details.more, details.record")) return true;
    return sent.delete(element);
  };

  // Leaving while a change is on its way would lose it: ask first.
  window.addEventListener("beforeunload", (event) => {
    if (answered < changes) event.preventDefault();
  });

  // An order chosen from a list is one request of its own: the form does not save it as well.
  for (const kind of ["input", "change"]) {
    document.addEventListener(kind, (event) => {
      if (!event.target.matches(".order")) return;
      event.target.addEventListener(kind, (e) => e.stopPropagation(), { once: true });
    }, true);
  }
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

  // Ctrl Z takes back the newest edit of this page, Ctrl Shift Z or Ctrl Y does it again; within a
  // text field it is the browser's own.
  document.addEventListener("keydown", (event) => {
    if (!(event.ctrlKey || event.metaKey) || event.altKey) return;
    if (event.target.closest?.("input:not([type=radio]):not([type=checkbox]), textarea")) return;
    const key = event.key.toLowerCase();
    const again = key === "y" || (key === "z" && event.shiftKey);
    if (key !== "z" && !again) return;
    const button = document.getElementById(again ? "redo" : "undo");
    if (!button) return;
    event.preventDefault();
    button.click();
  });

  // A picture goes on its way as soon as it is taken.
  document.addEventListener("change", (event) => {
    if (event.target.matches("[data-sends]")) event.target.form.requestSubmit();
  });

  // A watch on bubbles: started by hand, its time goes into the field beside it.
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-watch]");
    const field = button && document.getElementById(button.dataset.watch);
    if (!field || button.dataset.began) return;
    button.dataset.began = Date.now();
    const tick = () => {
      if (!button.isConnected || !button.dataset.began) return clearInterval(timer);
      const s = Math.floor((Date.now() - button.dataset.began) / 1000);
      button.textContent = `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
      field.value = `${s} s`;
    };
    const timer = setInterval(tick, 1000);
    tick();
  });

  // Pieces on a drawing: dragged by hand, or moved by arrow keys. A piece names the two fields
  // that hold its place; moving it writes them, and their form does the rest.
  const INCH = 0.0254;
  const step = (svg, fine) =>
    svg.dataset.system === "us" ? INCH * (fine ? 1 / 16 : 1 / 2) : fine ? 0.001 : 0.01;
  const put = (svg, name, metres, kind, fine) => {
    const field = document.getElementsByName(name)[0];
    if (!field) return;
    const grid = step(svg, fine);
    const at = Math.max(0, Math.round(metres / grid) * grid);
    field.value = svg.dataset.system === "us" ? `${+(at / INCH).toFixed(4)} in` : `${+at.toFixed(4)} m`;
    field.dispatchEvent(new Event(kind, { bubbles: true }));
  };
  // A piece stays on what is drawn: one that was dragged off it could not be taken hold of again.
  const inside = (svg, edge, metres) =>
    Math.max(0, Math.min(metres, Number(svg.dataset[edge]) || Infinity));
  const move = (svg, piece, x, y, kind, fine) => {
    if (piece.dataset.puts) {
      const by = { x: x - piece.dataset.atX, y: y - piece.dataset.atY };
      for (const [name, axis, sign, now] of JSON.parse(piece.dataset.puts)) {
        if (by[axis]) put(svg, name, now + sign * by[axis], kind, fine);
      }
      return;
    }
    const { x: across, y: along, atX, atY } = piece.dataset;
    const [within, far] = [inside(svg, "right", x), inside(svg, "far", y)];
    if (within !== +atX) put(svg, across, within, kind, fine);
    if (far !== +atY) put(svg, along, far, kind, fine);
  };
  let held = null;
  document.addEventListener("pointerdown", (event) => {
    const piece = event.target.closest(".piece");
    if (!piece || event.button > 0) return;
    const svg = piece.ownerSVGElement;
    const { atX, atY } = piece.dataset;
    const { clientX, clientY, pointerId } = event;
    const perM = svg.dataset.perM * svg.getScreenCTM().a;
    held = { piece: piece.id, svg: svg.id, x: +atX, y: +atY, clientX, clientY, pointerId, perM, told: 0 };
    piece.focus({ preventScroll: true });
    event.preventDefault();
  });
  const place = (event) => {
    const up = +document.getElementById(held.svg).dataset.up;
    return [
      held.x + (event.clientX - held.clientX) / held.perM,
      held.y + (up * (event.clientY - held.clientY)) / held.perM,
    ];
  };
  document.addEventListener("pointermove", (event) => {
    if (!held || event.pointerId !== held.pointerId) return;
    const svg = document.getElementById(held.svg);
    const piece = document.getElementById(held.piece);
    if (!svg || !piece) return;
    const [x, y] = place(event);
    const { perM } = svg.dataset;
    const dx = (x - piece.dataset.atX) * perM;
    const dy = (y - piece.dataset.atY) * perM * svg.dataset.up;
    piece.setAttribute("transform", `translate(${dx.toFixed(1)} ${dy.toFixed(1)})`);
    if (event.timeStamp - held.told > 180) {
      held.told = event.timeStamp;
      move(svg, piece, x, y, "change", false);
    }
  });
  const drop = (event) => {
    if (!held || event.pointerId !== held.pointerId) return;
    const svg = document.getElementById(held.svg);
    const piece = document.getElementById(held.piece);
    const moved = Math.hypot(event.clientX - held.clientX, event.clientY - held.clientY) > 2;
    if (svg && piece && moved && event.type === "pointerup") move(svg, piece, ...place(event), "change", false);
    held = null;
  };
  document.addEventListener("pointerup", drop);
  document.addEventListener("pointercancel", drop);
  document.addEventListener("keydown", (event) => {
    const piece = event.target.closest?.(".piece");
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!piece || !way || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    const svg = piece.ownerSVGElement;
    const by = step(svg, event.shiftKey);
    const up = svg.dataset.up === "1" ? -1 : 1;
    const { x, y, puts } = piece.dataset;
    let x1 = +piece.dataset.atX + way[0] * by;
    let y1 = +piece.dataset.atY + way[1] * up * by;
    if (!puts) [x1, y1] = [inside(svg, "right", x1), inside(svg, "far", y1)];
    if (puts) {
      const moved = JSON.parse(puts);
      move(svg, piece, x1, y1, "input", event.shiftKey);
      for (const one of moved) one[3] += one[2] * (one[1] === "x" ? way[0] : way[1] * up) * by;
      piece.dataset.puts = JSON.stringify(moved);
    }
    piece.dataset.atX = x1;
    piece.dataset.atY = y1;
    if (puts) return;
    if (way[0]) put(svg, x, x1, "input", event.shiftKey);
    if (way[1]) put(svg, y, y1, "input", event.shiftKey);
  });

  document.addEventListener("alpine:init", () => {
    // A clock that runs on from the first reading of an open hold.
    Alpine.data("clock", () => ({
      shown: "",
      init() {
        const { since, first } = this.$el.dataset;
        const began = Date.parse(since) + Number(first) * 1000;
        const two = (n) => String(n).padStart(2, "0");
        const tick = () => {
          const s = Math.max(0, Math.floor((Date.now() - began) / 1000));
          const [h, m] = [Math.floor(s / 3600), Math.floor(s / 60) % 60];
          this.shown = h ? `${h}:${two(m)}:${two(s % 60)}` : `${m}:${two(s % 60)}`;
        };
        tick();
        this.timer = setInterval(tick, 1000);
      },
      destroy() {
        clearInterval(this.timer);
      },
    }));
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
