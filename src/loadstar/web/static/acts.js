// Ticks and readings at the machine, where the server may be out of reach. Each is kept here, under an id of its own, before it is sent, and goes
// only when the server has answered for that id: the server takes an id once. What was refused stays in sight until it has been read.
const ACT = "loadstar-act-", REFUSED = "loadstar-refused-", TOLD_AFTER_MS = 800;
const acts = {
  why: "", busy: false,
  rows(prefix) {
    return Object.keys(localStorage).filter((key) => key.startsWith(prefix)).sort().map((key) => ({ key, ...JSON.parse(localStorage.getItem(key)) }));
  },
  get person() { return document.documentElement.dataset.person || ""; },
  mine() { return this.rows(ACT).filter((act) => act.person === this.person); },
  add(form, submitter) {
    const id = [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, "0")).join("");
    const fields = [...new FormData(form, submitter).entries()].filter(([name]) => name !== "csrfmiddlewaretoken");
    const act = { id, action: form.action, fields, words: form.dataset.tick, person: this.person, page: window.location.pathname };
    localStorage.setItem(`${ACT}${String(Date.now()).padStart(15, "0")}-${id}`, JSON.stringify(act));
  },
  // One after the other, as they were pressed, and by one tab at a time.
  async send() {
    if (this.busy) return;
    this.busy = true;
    let answer = null, act = null;
    await alone(async () => {
      for ([act] = this.mine(); act; [act] = this.mine()) {
        const given = await this.post(act).catch(() => { this.why = "the server is out of reach"; return null; });
        if (!given) break;
        this.why = "";
        if (!given.taken) localStorage.setItem(act.key.replace(ACT, REFUSED), JSON.stringify({ words: act.words, said: given.said }));
        localStorage.removeItem(act.key);
        answer = { ...given, page_of: act.page };
      }
    });
    this.busy = false;
    if (answer && answer.page_of === window.location.pathname) await shown(answer);
    this.tell();
  },
  // What the server says of this act; null, and why, where it has said nothing of it.
  async post(act) {
    const token = document.querySelector("[name=csrfmiddlewaretoken]");
    if (!token) { this.why = "you are not signed in"; return null; }
    const answer = await fetch(act.action, {
      method: "POST", body: new URLSearchParams([...act.fields, ["csrfmiddlewaretoken", token.value]]),
      headers: { Accept: "application/json", "X-Loadstar-Act": act.id, "X-Loadstar-Person": act.person } });
    if ((answer.headers.get("Content-Type") || "").startsWith("application/json")) {
      const given = await answer.json();
      if (given.act === act.id) return given;
    }
    if (answer.status === 404) return { taken: false, said: "That plan is no longer there." };
    this.why = answer.status >= 500 ? "the server cannot take it just now" : answer.redirected ? "you are not signed in" : "this page is too old: open it again";
    return null;
  },
  tell() {
    const note = document.getElementById("unsent");
    if (!note) return;
    const mine = this.mine().length, others = this.rows(ACT).length - mine, refused = this.rows(REFUSED);
    const words = [];
    if (mine) words.push(`${mine} not sent yet${this.why ? `: ${this.why}` : ""}. Kept here, and sent again by itself.`);
    if (others) words.push(`${others} of somebody else ${others === 1 ? "waits" : "wait"} here: to be sent, they have to sign in.`);
    for (const one of refused) words.push(`Not taken: ${one.words}. ${one.said}`);
    note.hidden = !words.length;
    note.querySelector("[data-words]").textContent = words.join(" ");
    note.querySelector("button").hidden = !refused.length;
  },
  read() { for (const one of this.rows(REFUSED)) localStorage.removeItem(one.key); this.tell(); },
};
function alone(work) { return navigator.locks ? navigator.locks.request("loadstar-acts", work) : work(); }
async function shown(given) {
  let text = given.page;
  if (given.taken) text = await fetch(given.go, { headers: { Accept: "text/html" } }).then((answer) => answer.text(), () => "");
  const page = new DOMParser().parseFromString(text, "text/html").getElementById("frame");
  if (!page) { if (text) window.location.reload(); return; }
  document.getElementById("frame").replaceWith(page);
  if (given.taken) history.replaceState(null, "", given.go);
  else acts.read(); // the page says it, beside the field
  const first = page.querySelector(".has-error input, [role=alert]") || document.getElementById("done") || page.querySelector("[data-first]") || document.getElementById("work");
  if (first) first.focus();
  kept.redrawn += 1;
  document.documentElement.dataset.redrawn = kept.redrawn;
}
document.addEventListener("submit", (event) => {
  const form = event.target.closest("form[data-tick]");
  if (!form) return;
  try { acts.add(form, event.submitter); } catch { return; } // this browser keeps nothing: sent as any form
  event.preventDefault();
  event.stopImmediatePropagation();
  window.setTimeout(() => acts.tell(), TOLD_AFTER_MS); // what is sent at once needs no word
  acts.send();
}, true);
document.addEventListener("click", (event) => { if (event.target.closest("#unsent button")) acts.read(); });
window.addEventListener("online", () => acts.send());
window.setInterval(() => { if (acts.mine().length) acts.send(); }, 4000);
document.addEventListener("ajax:merged", () => acts.tell());
document.addEventListener("DOMContentLoaded", () => { acts.tell(); if (acts.mine().length) acts.send(); });
