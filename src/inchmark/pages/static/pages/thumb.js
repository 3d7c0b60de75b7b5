// Counting by thumb: presses into the browser's own database first, to the app when there is one.
import { Marks } from "./marks.js";
import { Pocket } from "./pocket.js";
import { Positions } from "./positions.js";
import { Spool, post } from "./spool.js";

const UNDO_MS = 30_000, SEND_MS = 2000, HIDDEN_MS = 15_000, AGAIN_MS = 5000, MOST = 500;
const themes = ["light", "dark", "sun"];
const { walk, presses: url, marks: marksUrl, positions: positionsUrl, photos: photosUrl, events, worker, beat } = document.body.dataset;
const place = `inchmark-thumb-${walk}`;
const at = (id) => document.getElementById(id);
const chosen = ["stop", "rig", "condition", "receiver", "every"];
const state = { start: "", through: 0, placed: 0, tallies: {}, hand: "right", replies: false, ...JSON.parse(localStorage.getItem(place) || "{}") };
const spool = await new Spool(`press-${walk}`).open();
let sending = 0, ticking = null, sound = null, bars = null;
const unsaid = { left: 0, words: "" };
const marks = new Marks(walk, marksUrl, (left, words) => { Object.assign(unsaid, { left, words }); showKept(); });
const photos = { left: 0, words: "" };
const pocket = new Pocket(walk, photosUrl, (left, words) => { Object.assign(photos, { left, words }); showKept(); });

function remember() {
  for (const id of chosen) state[id] = at(id).value;
  state.replies = at("replies").checked;
  localStorage.setItem(place, JSON.stringify(state));
}

function tally() {
  const key = [at("rig").value, at("stop").value, at("condition").value, at("receiver").value, at("replies").checked].join("\u001f");
  state.tallies[key] ??= { heard: 0, tries: 0 };
  return state.tallies[key];
}

function show() {
  const own = tally(), replies = at("replies").checked;
  at("heard").textContent = own.heard;
  at("tries").textContent = own.tries;
  at("what").textContent = replies ? "answered" : "heard";
  at("yes").textContent = replies ? "Reply came" : "Heard";
  at("no").textContent = replies ? "No reply" : "Missed";
  document.body.classList.toggle("left", state.hand === "left");
}

async function showKept(words) {
  const presses = await spool.count(), unsent = presses + unsaid.left + photos.left, why = words || unsaid.words || photos.words;
  const away = why ? ` · ${why}` : "";
  at("kept").textContent = unsent ? `${unsent} kept on this phone${away}` : `all ${state.through} sent${photos.words ? away : ""}`;
  at("undo").disabled = presses <= sending;
}

async function press(heard) {
  const own = tally();
  await spool.add([{
    at: new Date().toISOString(), heard, rig: at("rig").value, stop: at("stop").value,
    condition: at("condition").value.trim(), receiver: at("receiver").value.trim(), replies: at("replies").checked, ...(bars === null ? {} : { bars }),
  }]);
  setBars(null);
  own.tries += 1;
  if (heard) own.heard += 1;
  remember();
  show();
  navigator.vibrate?.(heard ? 30 : [20, 60, 20]);
  await showKept();
}

async function undo() {
  const items = await spool.first();
  if (items.length <= sending) return;
  const last = items.at(-1);
  await spool.drop([last]);
  for (const id of ["rig", "stop", "condition", "receiver"]) at(id).value = last[id];
  at("replies").checked = last.replies;
  const own = tally();
  own.tries -= 1;
  if (last.heard) own.heard -= 1;
  remember();
  show();
  await showKept();
}

async function send() {
  let wait = document.hidden ? HIDDEN_MS : SEND_MS, words = "";
  const items = await spool.first(MOST);
  const settled = items.filter((one, i) => i < items.length - 1 || Date.now() - Date.parse(one.at) > UNDO_MS);
  if (settled.length) {
    sending = settled.length;
    try {
      const body = { start: state.start, first: state.through + 1, presses: settled };
      const answer = await post(url, body);
      const told = await answer.json().catch(() => ({}));
      if (answer.ok) {
        await spool.drop(settled);
        state.through = told.through;
        remember();
        if (settled.length === MOST) wait = 0;
      } else {
        words = told.detail || (answer.status === 403 || answer.redirected ? "sign in again" : `the app answered ${answer.status}`);
        wait = AGAIN_MS;
      }
    } catch {
      words = "no network";
      wait = AGAIN_MS;
    }
    sending = 0;
  }
  await showKept(words);
  setTimeout(send, wait);
}

function tick() {
  at("beat").classList.add("flash");
  setTimeout(() => at("beat").classList.remove("flash"), 200);
  navigator.vibrate?.(15);
  const tone = sound.createOscillator(), level = sound.createGain();
  level.gain.value = 0.1;
  tone.connect(level).connect(sound.destination);
  tone.start();
  tone.stop(sound.currentTime + 0.06);
}

// strength as a board shows it in bars: kept with the press, turned into no level
function setBars(count) {
  bars = count;
  for (const one of document.querySelectorAll("[data-bars]")) one.setAttribute("aria-pressed", String(Number(one.dataset.bars) === count));
}

function stand() {
  remember();
  show();
  marks.say({ what: "place", stop: at("stop").value, rig: at("rig").value, condition: at("condition").value.trim(), receiver: at("receiver").value.trim() });
}

// the plan's next visit, one tap
function goNext(event) {
  const { nextStop, nextRig, nextWay } = event.target.closest("[data-next-stop]")?.dataset ?? {};
  if (nextStop === undefined) return;
  at("stop").value = nextStop;
  at("rig").value = nextRig;
  at("condition").value = nextWay;
  stand();
}

// somebody at the desk, or a second phone, tapped where it stands: this page goes there too
function follow(text) {
  const now = JSON.parse(text);
  if (unsaid.left || !now.stop) return;
  for (const [id, value] of [["stop", now.stop], ["rig", now.rig], ["condition", now.condition]]) {
    const known = at(id).tagName !== "SELECT" || [...at(id).options].some((one) => one.value === value);
    if (known && (value || id === "condition")) at(id).value = value;
  }
  remember();
  show();
}

function listen() {
  const stream = new EventSource(events);
  stream.addEventListener("part", (event) => {
    const { name, html } = JSON.parse(event.data);
    if (name === "now") follow(html);
    if (name === "people") at("people").textContent = html ? `Here: ${html}.` : "";
    if (name === "next") at("next").innerHTML = html;
    if (name === "guidance") at("guidance").innerHTML = html;
  });
  const quiet = () => { if (document.hidden) { stream.close(); document.removeEventListener("visibilitychange", quiet); document.addEventListener("visibilitychange", listen, { once: true }); } };
  document.addEventListener("visibilitychange", quiet);
}

function toggleBeat() {
  const on = !ticking, every = Number(at("every").value);
  if (on && !(every >= 1)) { document.querySelector("details").open = true; at("every").focus(); return; }
  clearInterval(ticking);
  sound ??= new AudioContext();
  ticking = on ? setInterval(tick, every * 1000) : null;
  at("beat").setAttribute("aria-pressed", String(on));
  remember();
}

function turnTheme() {
  const root = document.documentElement;
  root.dataset.theme = themes[(themes.indexOf(root.dataset.theme) + 1) % themes.length];
  localStorage.setItem("inchmark-theme", root.dataset.theme);
  document.querySelector("[data-theme-name]").textContent = root.dataset.theme;
}

async function keepPage() {
  if (!navigator.serviceWorker) { at("no-store").hidden = false; return; }
  const registered = await navigator.serviceWorker.register(worker);
  await navigator.serviceWorker.ready;
  const needed = [...document.querySelectorAll("link[href], script[src]")].map((one) => one.href || one.src);
  const imported = performance.getEntriesByType("resource").map((one) => one.name).filter((name) => name.startsWith(location.origin));
  const assets = [...needed, ...imported].filter((one) => one.includes("/static/") || one.includes("manifest"));
  // oxlint-disable-next-line unicorn/require-post-message-target-origin -- a worker has no other origin
  registered.active.postMessage({ keep: [...new Set([location.pathname, ...assets])] });
  document.body.dataset.offline = "ready";
}

function begin() {
  state.start ||= `${Date.now().toString(36)}-${Math.random().toString(36).slice(2, 8)}`;
  for (const id of chosen) {
    const known = state[id] ?? (id === "every" ? beat : "");
    if (known !== "" && (at(id).tagName !== "SELECT" || [...at(id).options].some((one) => one.value === known))) at(id).value = known;
    at(id).addEventListener("change", ["stop", "rig", "condition"].includes(id) ? stand : () => { remember(); show(); });
  }
  for (const one of document.querySelectorAll("[data-bars]")) {
    one.addEventListener("click", () => setBars(bars === Number(one.dataset.bars) ? null : Number(one.dataset.bars)));
  }
  at("next").addEventListener("click", goNext);
  at("note").addEventListener("submit", (event) => {
    event.preventDefault();
    const text = at("words").value.trim();
    if (text) marks.say({ what: "note", text, stop: at("stop").value });
    at("words").value = "";
  });
  at("picture").addEventListener("change", () => {
    for (const file of at("picture").files) pocket.keep(file, { stop: at("stop").value, text: at("shows").value.trim() });
    at("picture").value = "";
    at("shows").value = "";
  });
  const where = new Positions(walk, positionsUrl, state, remember, (words) => { at("where").textContent = words; });
  where.begin();
  at("positions").addEventListener("change", () => { if (at("positions").checked) where.on(); else where.off(); });
  at("replies").checked = state.replies;
  at("replies").addEventListener("change", () => { remember(); show(); });
  at("yes").addEventListener("click", () => press(true));
  at("no").addEventListener("click", () => press(false));
  at("undo").addEventListener("click", undo);
  at("beat").addEventListener("click", toggleBeat);
  at("hand").addEventListener("click", () => { state.hand = state.hand === "left" ? "right" : "left"; remember(); show(); });
  document.querySelector("[data-theme-next]").addEventListener("click", turnTheme);
  document.querySelector("[data-theme-name]").textContent = document.documentElement.dataset.theme;
  remember();
  show();
  document.body.dataset.ready = "yes";
  marks.begin();
  pocket.begin();
  listen();
  send();
}

function alone(work) {
  if (!navigator.locks) { work(); return; }
  navigator.locks.request(place, { ifAvailable: true }, (lock) => {
    if (!lock) {
      at("other-tab").hidden = false;
      for (const button of document.querySelectorAll(".thumbs button, .less button")) button.disabled = true;
      return null;
    }
    work();
    return new Promise(() => {}); // held while the page is open
  });
}

alone(begin);
keepPage();
