// Keys, theme, and the one banner for requests that fail. No rule of the job lives here.
const themes = ["light", "dark", "sun"];
const root = document.documentElement;

function showTheme() {
  for (const label of document.querySelectorAll("[data-theme-name]")) label.textContent = root.dataset.theme;
}

function nextTheme() {
  const theme = themes[(themes.indexOf(root.dataset.theme) + 1) % themes.length];
  root.dataset.theme = theme;
  root.dataset.bsTheme = theme === "dark" ? "dark" : "light";
  localStorage.setItem("inchmark-theme", theme);
  const guide = document.querySelector("[data-points-at]");
const pointed = guide && document.querySelector(guide.dataset.pointsAt);
if (pointed) {
  pointed.classList.add("pointed-at");
  pointed.scrollIntoView({ block: "center" });
}
showTheme();
  document.dispatchEvent(new CustomEvent("inchmark:theme"));
}

function keysOff() {
  return localStorage.getItem("inchmark-keys") === "off";
}

function step(by) {
  const stops = [...document.querySelectorAll("[data-stop]")];
  if (!stops.length) return;
  const at = stops.findIndex((stop) => stop.hasAttribute("aria-current"));
  const next = at < 0 ? (by > 0 ? 0 : stops.length - 1) : Math.min(Math.max(at + by, 0), stops.length - 1);
  location.href = stops[next].getAttribute("href");
}

function focusRig(letter) {
  // the tape is drawn for two widths; only the one that shows can be focused
  const marks = [...document.querySelectorAll(`[data-rig="${CSS.escape(letter)}"]`)];
  marks.find((mark) => mark.getClientRects().length)?.focus();
}

function openJump() {
  const dialog = document.getElementById("jump");
  if (!dialog || dialog.open) return;
  dialog.showModal();
  const field = document.getElementById("jump-field");
  field.focus();
  field.dispatchEvent(new CustomEvent("opened"));
}

// From the field down into what was found and back up; the browser does the rest
function walkFound(event) {
  const links = [...document.querySelectorAll("#jump-found a")];
  if (event.key === "Enter" && event.target.id === "jump-field" && links.length) {
    event.preventDefault();
    links[0].click();
  }
  if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
  event.preventDefault();
  const at = links.indexOf(document.activeElement) + (event.key === "ArrowDown" ? 1 : -1);
  (links[Math.min(at, links.length - 1)] ?? document.getElementById("jump-field")).focus();
}

function press(event) {
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k" && !keysOff()) {
    event.preventDefault();
    openJump();
    return;
  }
  if (keysOff() || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.target.closest("input, textarea, select, [contenteditable], dialog[open]")) return;
  const key = event.key;
  const room = document.querySelector(`[data-room="${CSS.escape(key)}"]`);
  if (room) room.click();
  else if (key === "[") step(-1);
  else if (key === "]") step(1);
  else if (key === "/") { event.preventDefault(); openJump(); }
  else if (key === "n") document.getElementById("notes")?.focus();
  else if (key === "?") document.getElementById("keys").showModal();
  else if (/^[A-Z]$/.test(key)) focusRig(key);
}

document.addEventListener("keydown", press);
document.querySelector("[data-theme-next]")?.addEventListener("click", nextTheme);
document.querySelector("[data-print]")?.addEventListener("click", () => window.print());
document.querySelector("[data-jump]")?.addEventListener("click", (event) => { event.preventDefault(); openJump(); });
document.getElementById("jump")?.addEventListener("keydown", walkFound);
document.getElementById("jump")?.addEventListener("click", (event) => { if (event.target.id === "jump") event.target.close(); });
document.querySelector("[data-keys]")?.addEventListener("click", () => document.getElementById("keys").showModal());
document.querySelector("[data-keys-close]")?.addEventListener("click", () => document.getElementById("keys").close());
const off = document.querySelector("[data-keys-off]");
if (off) {
  off.checked = keysOff();
  off.addEventListener("change", () => localStorage.setItem("inchmark-keys", off.checked ? "off" : "on"));
}
for (const failed of ["htmx:responseError", "htmx:sendError", "htmx:timeout"]) {
  document.body.addEventListener(failed, () => { document.getElementById("banner").hidden = false; });
}
document.body.addEventListener("htmx:afterOnLoad", () => { document.getElementById("banner").hidden = true; });
for (const wanted of document.querySelectorAll("[autofocus]")) wanted.focus();
const guide = document.querySelector("[data-points-at]");
const pointed = guide && document.querySelector(guide.dataset.pointsAt);
if (pointed) {
  pointed.classList.add("pointed-at");
  pointed.scrollIntoView({ block: "center" });
}
showTheme();
