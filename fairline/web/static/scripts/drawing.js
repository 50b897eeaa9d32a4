// Drawing by hand: pieces are dragged by hand, or moved by arrow keys. A piece names the two fields
// that hold its place; moving it writes them, and their form does the rest.
const INCH = 0.0254;
const step = (svg, fine) =>
  svg.dataset.system === "us" ? INCH * (fine ? 1 / 16 : 1 / 2) : fine ? 0.001 : 0.01;
// Where a piece has gone is said once it rests.
const said = document.createElement("p");
said.className = "sr";
said.setAttribute("role", "status");
document.querySelector("header.top").append(said);
let speaking = 0;
const say = (words) => {
  clearTimeout(speaking);
  speaking = setTimeout(() => { said.textContent = words; }, 500);
};
const put = (svg, name, metres, kind, fine) => {
  const field = document.getElementsByName(name)[0];
  if (!field) return;
  const grid = step(svg, fine);
  const at = Math.max(0, Math.round(metres / grid) * grid);
  field.value = svg.dataset.system === "us" ? `${+(at / INCH).toFixed(4)} in` : `${+at.toFixed(4)} m`;
  field.dispatchEvent(new Event(kind, { bubbles: true }));
  say(`${field.labels?.[0]?.textContent.trim() ?? ""} ${field.value}`);
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
const WAYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
// A piece that puts several fields is moved, and told how far each of them has gone.
const nudge = (svg, piece, x, y, by, fine) => {
  const moved = JSON.parse(piece.dataset.puts);
  move(svg, piece, x, y, "input", fine);
  for (const one of moved) one[3] += one[2] * by[one[1]];
  piece.dataset.puts = JSON.stringify(moved);
};
const withArrow = (piece, way, fine) => {
  const svg = piece.ownerSVGElement;
  const up = svg.dataset.up === "1" ? -1 : 1;
  const by = { x: way[0] * step(svg, fine), y: way[1] * up * step(svg, fine) };
  const { x, y, puts } = piece.dataset;
  let x1 = +piece.dataset.atX + by.x;
  let y1 = +piece.dataset.atY + by.y;
  if (puts) nudge(svg, piece, x1, y1, by, fine);
  else [x1, y1] = [inside(svg, "right", x1), inside(svg, "far", y1)];
  piece.dataset.atX = x1;
  piece.dataset.atY = y1;
  if (puts) return;
  if (way[0]) put(svg, x, x1, "input", fine);
  if (way[1]) put(svg, y, y1, "input", fine);
};
document.addEventListener("keydown", (event) => {
  const piece = event.target.closest?.(".piece");
  const way = WAYS[event.key];
  if (!piece || !way || event.ctrlKey || event.metaKey || event.altKey) return;
  event.preventDefault();
  withArrow(piece, way, event.shiftKey);
});
