// Loadstar's own script: the frame's drawers and keys. Everything works without it as full pages.
document.addEventListener("alpine:initialized", () => { document.documentElement.dataset.redrawn = kept.redrawn; });
document.addEventListener("alpine:init", () => {
  window.Alpine.data("frame", () => ({
    open: false,
    keys: false,

    get openText() { return this.open ? "true" : "false"; },
    toggle() {
      this.open = !this.open;
      this.keys = false;
      if (this.open) { this.weigh(); this.$nextTick(() => focusOn("findings-title")); }
    },
    // Each way out is tried on the plan before it is offered: only when somebody looks.
    weigh() { if (document.querySelector("#findings #findings-list")) this.$ajax(this.$root.dataset.findings, { target: "findings-list" }); },
    close() { this.open = false; focusOn("findings-open"); },
    // On a telephone the bar at the thumb has what is used at a machine; the rest is behind one press.
    more: false,
    get moreText() { return this.more ? "true" : "false"; },
    get moreClass() { return this.more ? "all" : ""; },
    toggleMore() { this.more = !this.more; },
    toggleKeys() { this.keys = !this.keys; this.open = false; },
    closeKeys() { this.keys = false; focusOn("keys-open"); },

    init() {
      // A page that takes this one's place keeps its drawer as it was.
      this.open = kept.drawer;
      if (this.open) this.$nextTick(() => this.weigh());
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
      }[event.key] || (/^[0-9]$/.test(event.key) ? () => press(document.querySelector(`.runlist [data-key="${event.key}"]`)) : null);
      if (act) { event.preventDefault(); act(); }
    },
  }));

  // What takes longer than one answer comes in several: this part of the page fetches itself again until it is whole.
  window.Alpine.data("again", () => ({
    init() { this.soon(Number(this.$root.dataset.after) || 50); },
    soon(ms) { this.later = setTimeout(() => this.fetch(), ms); },
    fetch() {
      const { again, also } = this.$root.dataset, at = document.activeElement;
      const fields = [...this.$root.querySelectorAll("input:not([type=hidden])")];
      // What is being typed, or is on its way to the server, is not taken away.
      if (fields.some((field) => field.value) || (this.$root.contains(at) && isTyping(at))) this.soon(1000);
      else this.$ajax(again, { targets: [this.$root.id, ...(also ? [also] : [])] });
    },
    destroy() { clearTimeout(this.later); },
  }));

  // Pins on a photograph: a tap beside every mark puts the chosen one there.
  window.Alpine.data("marks", () => ({
    tap(event) {
      const { form, picture } = this.$refs;
      if (!form || event.target.closest("a")) return;
      const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(picture.getScreenCTM().inverse());
      const { width, height } = picture.viewBox.baseVal;
      form.elements.across.value = ((100 * at.x) / width).toFixed(2);
      form.elements.down.value = ((100 * at.y) / height).toFixed(2);
      form.requestSubmit();
    },
  }));

  // A question is answered while it is typed; another question is another page.
  window.Alpine.data("pocket", () => ({
    ask() { this.$refs.asked.requestSubmit(); },
    other() { this.$refs.which.submit(); },
  }));

  // A connector's sheet shows as many pins as it has ways.
  window.Alpine.data("plug", () => ({
    ways: 0,
    init() {
      this.ways = Number(this.$root.dataset.ways);
      const asked = this.$root.querySelector("[name=ways]");
      asked.addEventListener("input", () => { this.ways = Number(asked.value) || 0; });
    },
    has(way) { return way <= this.ways; },
  }));

  // Places on the map: dragged, put by a press, or moved by the arrow keys. The server turns the picture's points into millimetres.
  window.Alpine.data("map", () => ({
    held: null, from: null, moved: false, putting: false, put: false,
    get putText() { return this.putting ? "true" : "false"; },
    togglePut() { this.putting = !this.putting; },
    point(event) {
      const svg = this.$root.querySelector("svg");
      return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    },
    // Where places lie close together the nearest one is meant, not the one drawn last.
    nearest(at) {
      const spots = [...this.$root.querySelectorAll("[data-place]")].map((spot) => {
        const ring = spot.querySelector("circle");
        return { spot, far: Math.hypot(Number(ring.getAttribute("cx")) - at.x, Number(ring.getAttribute("cy")) - at.y) };
      }).filter((one) => one.far < 24).sort((a, b) => a.far - b.far);
      return spots.length ? spots[0].spot : null;
    },
    grab(event) {
      this.from = this.point(event);
      const spot = event.target.closest("svg") ? this.nearest(this.from) : null;
      this.moved = false;
      if (spot && !this.putting) { this.held = spot; event.preventDefault(); this.$root.setPointerCapture(event.pointerId); }
    },
    drag(event) {
      if (!this.held) return;
      const at = this.point(event), x = at.x - this.from.x, y = at.y - this.from.y;
      this.moved = this.moved || Math.hypot(x, y) > 4;
      if (this.moved) this.held.setAttribute("transform", "translate(" + x + " " + y + ")");
    },
    drop(event) {
      const spot = this.held;
      this.held = null;
      if (event.type !== "pointerup") { if (spot) spot.removeAttribute("transform"); return; }
      if (this.putting && event.target.closest("svg")) {
        this.putting = false;
        this.put = true;
        this.send("", this.point(event));
        return;
      }
      if (!spot) return;
      if (!this.moved) { press(spot.querySelector("a")); return; }
      const ring = spot.querySelector("circle"), at = this.point(event);
      this.send(spot.dataset.place, {
        x: Number(ring.getAttribute("cx")) + at.x - this.from.x, y: Number(ring.getAttribute("cy")) + at.y - this.from.y,
      });
    },
    // The press that puts a place follows no link that lies under it.
    swallow(event) { if (this.put) { this.put = false; event.preventDefault(); event.stopPropagation(); } },
    send(id, at) {
      const form = document.getElementById("put-form");
      form.elements.id.value = id;
      form.elements.x.value = at.x;
      form.elements.y.value = at.y;
      form.requestSubmit();
    },
    // A way point that has the focus goes by itself; a place by the buttons beside the map.
    nudgePoint(event, spot) {
      const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
      if (by) {
        const ring = spot.querySelector("circle"), step = Number(this.$root.dataset.step);
        event.preventDefault();
        this.send(spot.dataset.place, {
          x: Number(ring.getAttribute("cx")) + by[0] * step, y: Number(ring.getAttribute("cy")) + by[1] * step });
      } else if (event.key === "Delete") {
        event.preventDefault();
        press(this.$root.querySelector("[data-drop='" + spot.dataset.place + "'] button"));
      }
    },
    nudge(event) {
      const point = event.target.closest("[data-place][tabindex]");
      if (point) { this.nudgePoint(event, point); return; }
      const way = { ArrowLeft: "left", ArrowRight: "right", ArrowUp: "up", ArrowDown: "down" }[event.key];
      const button = way && document.getElementById("nudge-" + way);
      if (button && event.target.closest("[data-place], .nudge")) { event.preventDefault(); kept.stepping = true; press(button); }
    },
  }));
});

// On a telephone a picture that was pressed beside its links is shown over the whole screen, to be dragged and pinched.
document.addEventListener("click", (event) => {
  const box = event.target.closest(".picture-box"), dialog = document.getElementById("picture-dialog");
  if (!box || !dialog || box.matches(".map-box") || window.innerWidth > SMALL_PX || event.target.closest("a, button")) return;
  const picture = box.querySelector("svg"), large = dialog.querySelector(".picture-large");
  if (!picture) return;
  large.append(picture);
  dialog.addEventListener("close", () => box.append(picture), { once: true });
  dialog.showModal();
});
const SMALL_PX = 640;
const kept = { drawer: false, focus: "", form: "", page: "", stepping: false, redrawn: 0 };

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

// Which station is open, by its place in the run list.
function pageOpen() {
  const here = document.querySelector(".runlist [aria-current]");
  return here ? here.id : "";
}

function press(element) {
  if (element && !element.disabled) element.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true }));
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
  kept.page = pageOpen();
});
document.addEventListener("ajax:merged", (event) => {
  const dialog = document.getElementById("panel-dialog");
  if (event.target.id === "panel" && dialog.contains(event.target)) { // else the page is that of one working
    dialog.showModal();
    dialog.scrollTop = 0; // opening puts the focus on Close, which may lie below the fold
  }
  if (event.target.id !== "frame") return;
  const work = document.getElementById("work"), before = document.getElementById(kept.focus), moved = pageOpen() !== kept.page;
  const field = event.target.querySelector(".has-error input, .has-error select, .has-error textarea");
  const opened = event.target.querySelector("#form-panel input:not([type=hidden])");
  const fresh = event.target.querySelector("[data-first]"); // a field, or a form, that waits to be filled in
  const first = fresh && (fresh.matches("form") ? fresh.querySelector("input:not([type=hidden])") : fresh);
  if (field) field.focus();
  else if (first) first.focus();
  else if (opened && formOpen() !== kept.form && !kept.stepping) opened.focus();
  else if (before && !(moved && work.contains(before))) before.focus(); // on another page the like of it is another thing
  else work.focus();
  if (moved && !field) work.scrollTop = 0; // another page begins at its top
  kept.stepping = false;
  kept.redrawn += 1;
  document.documentElement.dataset.redrawn = kept.redrawn;
});
// A form is answered with the page that it leads to: from then on that is where one is.
document.addEventListener("ajax:success", (event) => {
  const at = event.detail.headers && event.detail.headers.get("X-Loadstar-At");
  if (!at) return;
  event.detail.url = new URL(at, document.baseURI).href;
  event.detail.redirected = true;
  history.replaceState(history.state, "", at);
});
// A form that is sent as a whole page: say so when the answer takes more than a moment.
let waits = 0;
document.addEventListener("submit", () => {
  waits = window.setTimeout(() => { document.documentElement.dataset.waits = "on"; }, 1000);
});
for (const over of ["ajax:merge", "ajax:error", "pageshow"]) window.addEventListener(over, () => {
  window.clearTimeout(waits);
  delete document.documentElement.dataset.waits;
});
// An answer without the part that was asked for (a sign-in page, the database being away): go there as a full page.
document.addEventListener("ajax:missing", (event) => {
  event.preventDefault();
  const url = event.detail.response && event.detail.response.url;
  if (event.detail.response.ok && url) window.location.href = url;
  else if (event.target.matches("form")) { event.target.setAttribute("noajax", ""); event.target.requestSubmit(); }
  else window.location.reload();
});
