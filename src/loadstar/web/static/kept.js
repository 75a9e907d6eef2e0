// Keeping a plan on this device, for where there is no network: asked for by a press, kept anew when the plan has changed, forgotten with whoever signs out.
const KEPT = "loadstar-kept-";
const keeping = {
  get possible() { return window.isSecureContext && "serviceWorker" in navigator; },
  told(at) { try { return JSON.parse(localStorage.getItem(KEPT + at)); } catch { return null; } },
  async begin(at) {
    await navigator.serviceWorker.register("/worker.js");
    const worker = (await navigator.serviceWorker.ready).active;
    const list = await fetch(at, { headers: { Accept: "application/json" } }).then((answer) => answer.json());
    const shell = [...document.querySelectorAll("link[href^='/static/'], script[src^='/static/']")].map((one) => one.href || one.src);
    worker.postMessage({ keep: list.pages, under: at, shell });
    return list.mark;
  },
  // Nobody is signed in, or somebody else: nothing of who was before stays here.
  forget(but) {
    const rows = Object.keys(localStorage).filter((key) => key.startsWith(KEPT));
    if (!rows.some((key) => (JSON.parse(localStorage.getItem(key)) || {}).person !== but)) return;
    for (const key of rows) localStorage.removeItem(key);
    if (window.caches) window.caches.delete("loadstar-pages");
  },
};
document.addEventListener("alpine:init", () => {
  window.Alpine.data("kept", () => ({
    words: "Keep here, for no network", possible: keeping.possible, mark: "",
    init() {
      this.at = this.$root.dataset.at;
      this.person = document.documentElement.dataset.person;
      if (!this.possible) return;
      this.onTold = (event) => this.heard(event.data);
      navigator.serviceWorker.addEventListener("message", this.onTold);
      const before = keeping.told(this.at);
      if (before) this.words = `Kept here, ${before.when}`;
      if (before && before.mark !== this.$root.dataset.mark && navigator.onLine) this.keep();
    },
    destroy() { if (this.onTold) navigator.serviceWorker.removeEventListener("message", this.onTold); },
    async keep() {
      this.words = "Keeping it here";
      this.mark = await keeping.begin(this.at).catch(() => { this.words = "Not kept: no network, or no room"; return ""; });
    },
    heard(said) {
      if (said.under !== this.at) return;
      if (said.failed) this.words = said.failed === "full" ? `No room on this device: ${said.done} of ${said.all} pages kept` : `Stopped at ${said.done} of ${said.all} pages: press again`;
      else if (said.done < said.all) this.words = `Keeping it here: ${said.done} of ${said.all} pages`;
      else {
        const when = new Date().toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
        localStorage.setItem(KEPT + this.at, JSON.stringify({ when, mark: this.mark, person: this.person }));
        this.words = `Kept here, ${when}: ${said.all} pages`;
      }
    },
  }));
});
document.addEventListener("DOMContentLoaded", () => keeping.forget(document.documentElement.dataset.person || ""));
// A part of a page that came from here says so, as a whole page does.
document.addEventListener("ajax:success", (event) => {
  const at = document.getElementById("as-of"), words = event.detail.headers && event.detail.headers.get("X-Loadstar-As-Of");
  if (!at) return;
  at.hidden = !words;
  at.textContent = words ? decodeURIComponent(words) : "";
});
