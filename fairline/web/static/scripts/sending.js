// Sending: an act recorded while the server cannot be reached stays on the page, marked, in order,
// and goes out once when it is back. (What is typed into an entry sends itself: keeping.js.)

const KEPT = "fairline-unsent";
const AGAIN_MS = 4000;

// Each: path, fields, token, at, words, the parts of the job that its page showed, and whose it is.
const waiting = JSON.parse(localStorage.getItem(KEPT) ?? "[]");
let refused = "";
let signedOut = false;
let timer = 0;

// An act goes out as whoever did it: what another person left here waits for that person.
const NOBODY = "0";
const me = document.documentElement.dataset.person ?? NOBODY;
const mine = () => waiting.filter(({ person }) => [undefined, NOBODY, me].includes(person));

/** Takes an act out, where it still waits. */
const taken = (act) => {
  const at = waiting.indexOf(act);
  if (at >= 0) waiting.splice(at, 1);
};

const token = () => [...crypto.getRandomValues(new Uint8Array(12))]
  .map((byte) => byte.toString(16).padStart(2, "0")).join("");

/** Whether a request is an act (a record, an order for good), not an entry that keeps itself. */
const isAct = ({ elt, verb }) => verb === "post" && elt && !elt.closest("form.entry");

const UNTOLD = ["hidden", "radio", "checkbox", "submit"];
const DOES = "button.act, button.big, button:not([disabled]):not(.sr)";
const plain = (text) => text?.replace(/\s+/g, " ").trim() ?? "";

/** A field that was filled in, as a person reads it: its label, and what stands in it. */
const fieldInWords = (form, name, value) => {
  const field = [...form.elements].find((f) => f.name === name && !UNTOLD.includes(f.type));
  if (!field) return "";
  const picked = (select) => select?.selectedOptions?.[0]?.text ?? "";
  const chosen = picked(field) || `${value} ${picked(form.elements[`_u.${name}`])}`;
  return `${plain(field.labels?.[0]?.textContent).toLowerCase()} ${plain(chosen)}`;
};

/** What an act says, for the list: of what it is, what was filled in, what its button says. */
const inWords = (elt, fields, pressed) => {
  const form = elt.closest("form") ?? elt;
  const of = form.closest("article, section, dialog")?.querySelector("h2, h3")?.firstChild;
  const filled = fields
    .filter(([name, value]) => typeof value === "string" && value && !name.startsWith("_"))
    .map(([name, value]) => fieldInWords(form, name, value));
  const done = pressed ?? (elt.matches("button") ? elt : form.querySelector(DOES));
  const parts = [plain(of?.textContent), ...filled, plain(done?.textContent)];
  return parts.filter(Boolean).join(" · ") || "an act";
};

/** How much waits, and for what. */
const told = (own, others) => {
  const until = signedOut ? "it goes out when you are signed in again"
    : "the server does not answer. It goes out by itself, in this order";
  return [
    own && `${own} not sent yet: ${until}.`,
    others && `${others} recorded here ${me === NOBODY ? "" : "by somebody else "}not sent yet: `
      + "it goes out when that person signs in.",
  ].filter(Boolean).join(" ");
};

/** A button that throws acts away, once it has asked whether they are meant. */
const thrownBy = (label, words, acts) => {
  const button = document.createElement("button");
  button.type = "button";
  button.className = "button quiet";
  button.textContent = label;
  button.addEventListener("click", () => {
    if (!window.confirm(`${words}: thrown away? It was not sent, and nobody else has it.`)) return;
    acts.forEach(taken);
    show();
  });
  return button;
};

/** What waits, each with its way out. */
const listed = (own) => {
  const list = document.createElement("ol");
  for (const act of own) {
    const item = document.createElement("li");
    item.append(`${act.words} `, thrownBy("Do not send", act.words, [act]));
    list.append(item);
  }
  const others = waiting.filter((act) => !own.includes(act));
  if (!others.length || me === NOBODY) return [list];
  const whose = `${others.length} recorded here by somebody else`;
  return [list, thrownBy("Throw away what others left", whose, others)];
};

const show = () => {
  localStorage.setItem(KEPT, JSON.stringify(waiting));
  const old = document.getElementById("unsent");
  const own = mine();
  if (!waiting.length && !refused) return old?.remove();
  const box = old ?? document.createElement("section");
  box.id = "unsent";
  box.setAttribute("role", "status");
  const head = document.createElement("b");
  head.textContent = refused || told(own.length, waiting.length - own.length);
  box.replaceChildren(head, ...listed(own));
  if (!old) (document.querySelector("header.top") ?? document.body).after(box);
};

/** What the server's page of an error says, in a sentence. */
export const saysNo = (page) => new DOMParser().parseFromString(page, "text/html")
  .querySelector("main .lead")?.textContent.trim() || "The server does not take this.";

const seconds = (at) => String(Math.max(0, Math.round((Date.now() - at) / 1000)));

/** Sends the first of mine that waits; says whether it is out. */
const sendFirst = async () => {
  const [first] = mine();
  const { path, fields, token: once, at, words, subject, person } = first;
  const response = await fetch(path, {
    method: "POST",
    body: new URLSearchParams(fields),
    headers: {
      "X-Fairline-Once": once,
      "X-Fairline-Ago": seconds(at),
      "X-Fairline-Subject": subject ?? "",
      "X-Fairline-Person": person ?? NOBODY,
    },
  });
  signedOut = response.status === 401;
  if (signedOut) return false;
  if (response.status >= 500) return false;
  if (!response.ok) refused = `Not recorded: ${words}. ${saysNo(await response.text())}`;
  taken(first);
  return true;
};
const sendAll = async () => {
  clearTimeout(timer);
  const had = mine().length;
  try {
    while (mine().length && await sendFirst());
  } catch {
    // still out of reach
  }
  show();
  if (mine().length && !signedOut) timer = setTimeout(sendAll, AGAIN_MS);
  else if (had && !mine().length && document.getElementById("job")) {
    htmx.ajax("GET", location.href, { target: "#job", select: "#job", swap: "morph:outerHTML" });
  }
};

const keep = (detail) => {
  const { path, elt, parameters, headers } = detail;
  const fields = [...new FormData(elt.closest("form") ?? undefined)];
  for (const [name, value] of Object.entries(parameters)) {
    if (!fields.some(([known]) => known === name)) fields.push([name, value]);
  }
  const sent = fields.filter(([, value]) => typeof value === "string");
  if (fields.some(([, value]) => value instanceof File && value.size)) {
    refused = "The file was not sent: the server does not answer. Send it again when it does.";
    return show();
  }
  waiting.push({
    path,
    fields: sent,
    token: headers["X-Fairline-Once"],
    subject: headers["X-Fairline-Subject"],
    person: me,
    at: Date.now(),
    words: inWords(elt, sent, detail.triggeringEvent?.submitter),
  });
  elt.closest("form")?.reset(); // free for what comes next
  show();
  document.dispatchEvent(new CustomEvent("fairline:waits", { detail: { elt, path, waiting: mine() } }));
  clearTimeout(timer);
  if (!signedOut) timer = setTimeout(sendAll, AGAIN_MS);
};

const waitsHere = () => {
  refused = "";
  show();
  document.getElementById("unsent").scrollIntoView({ block: "center" });
};

document.addEventListener("htmx:configRequest", (event) => {
  if (event.detail.verb === "post") event.detail.headers["X-Fairline-Person"] = me;
  if (!isAct(event.detail)) return;
  event.detail.headers["X-Fairline-Once"] = token();
  event.detail.headers["X-Fairline-Subject"] = document.getElementById("job")?.dataset.subject ?? "";
});
// While something waits, what is done after it waits behind it.
document.addEventListener("htmx:beforeRequest", (event) => {
  const config = event.detail.requestConfig;
  if (!mine().length || !isAct(config)) return;
  event.preventDefault();
  keep(config);
});
document.addEventListener("htmx:sendError", (event) => {
  const config = event.detail.requestConfig;
  if (isAct(config)) keep(config);
});
// The session has ended: the act waits while its person signs in.
document.addEventListener("htmx:beforeOnLoad", (event) => {
  const { requestConfig, xhr } = event.detail;
  if (xhr.status !== 401 || !isAct(requestConfig)) return;
  event.preventDefault();
  signedOut = true;
  keep(requestConfig);
  setTimeout(() => location.assign(xhr.getResponseHeader("HX-Redirect")));
});
document.addEventListener("htmx:responseError", (event) => {
  const { requestConfig, xhr } = event.detail;
  if (!isAct(requestConfig) || xhr.status >= 500) return;
  refused = `Not recorded. ${saysNo(xhr.responseText)}`;
  show();
});
window.addEventListener("online", sendAll);
window.addEventListener("beforeunload", (event) => {
  if (mine().length && !signedOut) event.preventDefault();
});
// A link pressed while acts wait: they go out first; without signal the page stays where it is.
document.addEventListener("click", async (event) => {
  const link = event.target.closest?.('a[href^="/"], a[href^="?"]');
  if (!mine().length || signedOut || !link || event.defaultPrevented) return;
  if (event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  await sendAll();
  if (!mine().length) return location.assign(link.href);
  waitsHere();
});
// Who signs out sends what waits before.
document.addEventListener("submit", async (event) => {
  const form = event.target;
  if (!mine().length || new URL(form.action).pathname !== "/sign-out") return;
  event.preventDefault();
  await sendAll();
  if (!mine().length) return form.submit();
  waitsHere();
});
show();
if (mine().length) sendAll();
