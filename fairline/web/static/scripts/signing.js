// A signature drawn by finger, pen or mouse: strokes in the units of its field, kept in the form.

const MOST = 18_000; // characters that are kept of one signature
const NEAR = 3; // units: nearer to the last point nothing is kept

const place = (pad, event) => {
  const box = pad.getBoundingClientRect();
  const [, , wide, high] = pad.getAttribute("viewBox").split(" ").map(Number);
  const within = (value, most) => Math.max(0, Math.min(most, Math.round(value)));
  return [
    within(((event.clientX - box.left) / box.width) * wide, wide),
    within(((event.clientY - box.top) / box.height) * high, high),
  ];
};

const shown = (pad, text) => {
  const strokes = text.split(";").filter(Boolean);
  pad.querySelector("path").setAttribute("d", strokes.map((stroke) => {
    const points = stroke.split(" ").map((point) => point.replace(",", " "));
    return `M${points[0]}L${points.join("L")}`;
  }).join(""));
};

const kept = (pad) => pad.closest(".signing").querySelector("input[type=hidden]");
let drawn = null; // the pad under the finger, and the last point on it

document.addEventListener("pointerdown", (event) => {
  const pad = event.target.closest(".signing svg");
  if (!pad) return;
  event.preventDefault();
  pad.setPointerCapture(event.pointerId);
  const point = place(pad, event);
  const field = kept(pad);
  field.value += `${field.value ? ";" : ""}${point.join(",")}`;
  drawn = { pad, point };
  shown(pad, field.value);
});

document.addEventListener("pointermove", (event) => {
  if (!drawn) return;
  const { pad, point } = drawn;
  const next = place(pad, event);
  const field = kept(pad);
  if (Math.hypot(next[0] - point[0], next[1] - point[1]) < NEAR || field.value.length > MOST) return;
  field.value += ` ${next.join(",")}`;
  drawn.point = next;
  shown(pad, field.value);
});

for (const ends of ["pointerup", "pointercancel"]) {
  document.addEventListener(ends, () => {
    drawn = null;
  });
}

document.addEventListener("click", (event) => {
  const again = event.target.closest(".signing button");
  if (!again) return;
  const pad = again.closest(".signing").querySelector("svg");
  kept(pad).value = "";
  shown(pad, "");
});
