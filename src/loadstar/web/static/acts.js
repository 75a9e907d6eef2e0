// Ticks and readings at the machine, where the server may be out of reach. Each is kept here, under an id of its own, before it is sent, and goes
// only when the server has answered for that id: the server takes an id once. What was refused stays in sight until it has been read.
// Their order is the store's own count, whatever the clock says.
const TOLD_AFTER_MS = 800, FULL = "This device has no room left. Free some, then press again: nothing of it was lost.";
const OUT_MS = [180, 90, 180], IN_MS = [40]; // how a reading that is out, or in, shakes the hand
const store = {
  opened: null,
  open() {
    this.opened = this.opened || new Promise((done, fail) => {
      const asked = window.indexedDB.open("loadstar", 1);
      asked.onupgradeneeded = () => { for (const name of ["acts", "refused"]) asked.result.createObjectStore(name, { keyPath: "n", autoIncrement: true }); };
      asked.onsuccess = () => done(asked.result);
      asked.onerror = () => fail(asked.error);
    });
    return this.opened;
  },
  // What is written is on the disk before it counts as kept.
  async with(names, mode, work) {
    const base = await this.open();
    return new Promise((done, fail) => {
      const change = base.transaction(names, mode, { durability: "strict" }), asked = work(change);
      change.oncomplete = () => done(asked && asked.result);
      change.onabort = () => fail(change.error);
    });
  },
  rows(name) { return this.with(name, "readonly", (change) => change.objectStore(name).getAll()).catch(() => []); },
};
const acts = {
  why: "", busy: false,
  get person() { return document.documentElement.dataset.person || ""; },
  async mine() { return (await store.rows("acts")).filter((act) => act.person === this.person); },
  made(form, submitter) {
    const id = [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, "0")).join("");
    const fields = [...new FormData(form, submitter).entries()].filter(([name]) => name !== "csrfmiddlewaretoken");
    return { id, action: form.action, fields, words: form.dataset.tick, person: this.person, page: window.location.pathname };
  },
  add(act) { return store.with("acts", "readwrite", (change) => change.objectStore("acts").add(act)); },
  // Where this device keeps nothing it goes at once, or stays as it was typed.
  async straight(act) {
    const given = await this.post(act).catch(() => null);
    if (given) { await shown(given); return; }
    document.getElementById("unsent").hidden = false;
    document.querySelector("#unsent [data-words]").textContent = FULL;
  },
  // One after the other, as they were pressed, and by one tab at a time. `next`: where to go on meanwhile, without an answer.
  async send(next) {
    if (this.busy) { if (next) await onward(next); return; }
    this.busy = true;
    let answer = null;
    await alone(async () => {
      for (let [act] = await this.mine(); act; [act] = await this.mine()) {
        const given = await this.post(act).catch(() => { this.why = "the server is out of reach"; return null; });
        if (!given) break;
        this.why = "";
        await store.with(["acts", "refused"], "readwrite", (change) => {
          if (!given.taken) change.objectStore("refused").add({ words: act.words, said: given.said });
          change.objectStore("acts").delete(act.n);
        });
        answer = { ...given, page_of: act.page };
      }
    });
    this.busy = false;
    if (answer && answer.page_of === window.location.pathname) await shown(answer);
    else if (!answer && next) await onward(next);
    await this.tell();
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
  async tell() {
    const note = document.getElementById("unsent");
    if (!note) return;
    const every = await store.rows("acts"), mine = every.filter((act) => act.person === this.person), others = every.length - mine.length;
    const refused = await store.rows("refused"), words = [];
    if (mine.length) words.push(`${mine.length} not sent yet${this.why ? `: ${this.why}` : ""}. Kept here, and sent again by itself.`);
    if (others) words.push(`${others} of somebody else ${others === 1 ? "waits" : "wait"} here: to be sent, they have to sign in.`);
    for (const one of refused) words.push(`Not taken: ${one.words}. ${one.said}`);
    note.hidden = !words.length;
    note.querySelector("[data-words]").textContent = words.join(" ");
    note.querySelector("button").hidden = !refused.length;
    document.documentElement.dataset.unsent = mine.length;
    pressed(mine);
  },
  async read() { await store.with("refused", "readwrite", (change) => change.objectStore("refused").clear()); await this.tell(); },
};
function alone(work) { return navigator.locks ? navigator.locks.request("loadstar-acts", work) : work(); }
// The form that is looked at may have been pressed already, without a network: it says so.
function pressed(waiting) {
  const form = document.querySelector("form[data-tick]"), word = document.getElementById("pressed");
  if (word) word.remove();
  const about = form && [...form.querySelectorAll("[data-about]")].map((field) => [field.name, field.value]);
  if (!about || !about.length) return;
  const mine = waiting.filter((act) => act.action === form.action && about.every(([name, value]) => act.fields.some(([n, v]) => n === name && v === value)));
  if (!mine.length) return;
  const shows = (mine.at(-1).fields.find(([name]) => name === "value") || [])[1];
  form.insertAdjacentHTML("beforebegin", '<p id="pressed" class="lead" role="status"><span class="clear">✓</span> <span></span></p>');
  document.querySelector("#pressed span:last-child").textContent = shows ? `${shows} was entered here and waits to be sent.` : "It was pressed here and waits to be sent.";
}
async function shown(given) {
  let text = given.page;
  if (given.taken) text = await fetch(given.go, { headers: { Accept: "text/html" } }).then((answer) => answer.text(), () => "");
  if (!put(text)) return;
  if (given.taken) history.replaceState(null, "", given.go);
  else await acts.read(); // the page says it, beside the field
  const verdict = document.querySelector("#work [data-verdict]");
  if (verdict && navigator.vibrate) navigator.vibrate(verdict.dataset.verdict === "out" ? OUT_MS : IN_MS);
}
// Without an answer the work goes on with what comes next, as far as it is kept here.
async function onward(next) {
  const kept = await fetch(next, { headers: { Accept: "text/html" } }).catch(() => null);
  if (kept && kept.headers.get("X-Loadstar-As-Of") && put(await kept.text())) history.replaceState(null, "", next);
}
// A page in the place of this one; whether it was one.
function put(text) {
  const found = new DOMParser().parseFromString(text, "text/html"), page = found.getElementById("frame"), asOf = found.getElementById("as-of");
  if (!page) { if (text) window.location.reload(); return false; }
  document.getElementById("frame").replaceWith(page);
  document.getElementById("as-of").hidden = asOf.hidden;
  document.getElementById("as-of").textContent = asOf.textContent;
  const first = page.querySelector(".has-error input, [role=alert]") || document.getElementById("done") || page.querySelector("[data-first]") || document.getElementById("work");
  if (first) first.focus();
  kept.redrawn += 1;
  document.documentElement.dataset.redrawn = kept.redrawn;
  return true;
}
document.addEventListener("submit", (event) => {
  const form = event.target.closest("form[data-tick]");
  if (!form || !window.indexedDB) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  const act = acts.made(form, event.submitter);
  acts.add(act).then(
    () => { window.setTimeout(() => acts.tell(), TOLD_AFTER_MS); return acts.send(form.dataset.next); }, // what is sent at once needs no word
    () => acts.straight(act));
}, true);
document.addEventListener("click", (event) => { if (event.target.closest("#unsent button")) acts.read(); });
window.addEventListener("online", () => acts.send());
window.setInterval(async () => { if ((await acts.mine()).length) acts.send(); }, 4000);
document.addEventListener("ajax:merged", () => acts.tell());
document.addEventListener("DOMContentLoaded", async () => { await acts.tell(); if ((await acts.mine()).length) acts.send(); });
