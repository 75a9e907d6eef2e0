// Loadstar's own script: the frame's drawers and keys. Everything works without it as full pages.
document.addEventListener("alpine:initialized", () => { document.documentElement.dataset.redrawn = kept.redrawn; });
document.addEventListener("alpine:init", () => {
  window.Alpine.data("frame", () => ({
    open: false,
    keys: false,

    get openText() { return this.open ? "true" : "false"; },
    toggle() { this.open = !this.open; this.keys = false; if (this.open) this.$nextTick(() => focusOn("findings-title")); },
    close() { this.open = false; focusOn("findings-open"); },
    toggleKeys() { this.keys = !this.keys; this.open = false; },
    closeKeys() { this.keys = false; focusOn("keys-open"); },

    init() {
      // A page that takes this one's place keeps its drawer as it was.
      this.open = kept.drawer;
      this.$watch("open", (now) => { kept.drawer = now; });
      this.onKey = (event) => this.key(event);
      document.addEventListener("keydown", this.onKey);
    },
    destroy() { document.removeEventListener("keydown", this.onKey); },

    key(event) {
      if (document.documentElement.dataset.keys === "off" || event.ctrlKey || event.metaKey || event.altKey) return;
      if (isTyping(event.target) || document.querySelector("dialog[open]")) return;
      const act = {
        "[": () => stepState(-1), "]": () => stepState(1), "/": () => focusOn("find"), "f": () => this.toggle(),
        "a": () => press(document.querySelector("[data-add]")), "?": () => this.toggleKeys(),
        "u": () => step("#undo-form button"), "U": () => step("#redo-form button"),
        "Escape": () => { if (this.open) this.close(); if (this.keys) this.closeKeys(); },
      }[event.key] || (/^[1-9]$/.test(event.key) ? () => press(document.querySelector(`.runlist [data-key="${event.key}"]`)) : null);
      if (act) { event.preventDefault(); act(); }
    },
  }));
});

const kept = { drawer: false, focus: "", form: "", stepping: false, redrawn: 0 };

function isTyping(element) {
  return element.matches("input:not([type=checkbox]), textarea, select") || element.isContentEditable;
}

function focusOn(id) {
  const element = document.getElementById(id);
  if (element) element.focus();
}

function formOpen() {
  const panel = document.getElementById("form-panel");
  return panel ? panel.getAttribute("aria-label") : "";
}

function press(element) {
  if (element && !element.disabled) element.click();
}

// Undo and redo by key leave the focus where it is, so that they can be pressed again.
function step(selector) {
  kept.stepping = true;
  press(document.querySelector(selector));
}

function stepState(by) {
  const states = [...document.querySelectorAll(".states a")];
  const at = states.findIndex((s) => s.hasAttribute("aria-current"));
  press(states[at + by]);
}

// The frame is replaced whole: what had the focus, by its id, has it again; a field in error or a form that opened goes first.
document.addEventListener("ajax:merge", () => {
  kept.focus = document.activeElement ? document.activeElement.id : "";
  kept.form = formOpen();
});
document.addEventListener("ajax:merged", (event) => {
  if (event.target.id === "panel") {
    const dialog = document.getElementById("panel-dialog");
    dialog.showModal();
    dialog.scrollTop = 0; // opening puts the focus on Close, which may lie below the fold
  }
  if (event.target.id !== "frame") return;
  const field = event.target.querySelector(".has-error input, .has-error select, .has-error textarea");
  const opened = event.target.querySelector("#form-panel input:not([type=hidden])");
  if (field) field.focus();
  else if (opened && formOpen() !== kept.form && !kept.stepping) opened.focus();
  else if (kept.focus && document.getElementById(kept.focus)) focusOn(kept.focus);
  else focusOn("work");
  kept.stepping = false;
  kept.redrawn += 1;
  document.documentElement.dataset.redrawn = kept.redrawn;
});
// An answer without the part that was asked for (a sign-in page, the database being away): go there as a full page.
document.addEventListener("ajax:missing", (event) => {
  event.preventDefault();
  const url = event.detail.response && event.detail.response.url;
  if (event.detail.response.ok && url) window.location.href = url;
  else if (event.target.matches("form")) { event.target.setAttribute("noajax", ""); event.target.requestSubmit(); }
  else window.location.reload();
});
