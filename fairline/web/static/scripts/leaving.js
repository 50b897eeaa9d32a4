// Leaving while a change or an act is on its way would lose it: a link waits for the answer, and
// whatever else leaves is asked first. What was pressed shows that it is at work.

import { underWay } from "./keeping.js";

let posts = 0;
let leavingTo = "";
const busy = () => posts > 0 || underWay();

document.addEventListener("click", (event) => {
  const link = event.target.closest?.('a[href^="/"], a[href^="?"]');
  if (!link || !busy() || event.defaultPrevented || event.ctrlKey || event.metaKey) return;
  if (leavingTo === link.href) return; // pressed again: the browser asks
  event.preventDefault();
  leavingTo = link.href;
  link.setAttribute("aria-busy", "true");
});

const stay = () => {
  leavingTo = "";
  for (const pressed of document.querySelectorAll("[aria-busy]")) pressed.removeAttribute("aria-busy");
};
const leave = () => {
  if (!leavingTo || busy()) return;
  const to = leavingTo;
  stay();
  location.assign(to);
};
/** Whether what was sent was taken: an act leads on from its own address, an entry keeps itself. */
const taken = ({ successful, elt, xhr, pathInfo }) => successful
  && (elt.closest("form.entry") || !xhr.responseURL.endsWith(pathInfo.finalRequestPath));
const isPost = (event) => event.detail.requestConfig?.verb === "post";
document.addEventListener("htmx:beforeSend", (event) => {
  if (isPost(event)) posts += 1;
});
document.addEventListener("htmx:afterRequest", (event) => {
  if (!isPost(event)) return;
  posts = Math.max(0, posts - 1);
  if (!taken(event.detail)) stay(); // what was refused is read here
  setTimeout(leave); // what waited behind it goes out first
});

document.addEventListener("submit", (event) => { // of a plain form: the next page shows what came of it
  if (!event.defaultPrevented) event.submitter?.setAttribute("aria-busy", "true");
});
window.addEventListener("pageshow", stay); // back again by the browser

window.addEventListener("beforeunload", (event) => {
  const byHand = navigator.userActivation?.hasBeenActive ?? true; // nobody is asked of a page left alone
  if (byHand && busy()) event.preventDefault();
});
