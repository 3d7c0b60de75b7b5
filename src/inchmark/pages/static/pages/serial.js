// Reads a board's serial port and hands its lines on. What a line means is said in Python.
import { Spool, post } from "./spool.js";

const MOST_LINES = 500, SHOWN = 12, SEND_MS = 500, AGAIN_MS = 5000, LONGEST = 65536;
const form = document.getElementById("serial");
const show = (id, words) => { document.getElementById(id).textContent = words; };
const last = [];
const now = { port: null, reader: null, reading: false, read: 0, cut: "" };
const spool = await new Spool("line").open();

async function keep(lines, since) {
  if (!lines.length) return;
  const came = Date.now() / 1000;
  await spool.add(lines.map((text) => ({ ...since, number: ++now.read, came, text })));
  last.push(...lines);
  last.splice(0, Math.max(last.length - SHOWN, 0));
  show("serial-lines", last.join("\n"));
  show("serial-read", now.read);
}

function whole(text) {
  const pieces = (now.cut + text).split("\n");
  now.cut = pieces.pop();
  if (now.cut.length > LONGEST) { pieces.push(now.cut); now.cut = ""; }
  return pieces.map((line) => line.replace(/\r/g, ""));
}

async function follow(since) {
  const words = new TextDecoder("utf-8");
  while (now.reading && now.port.readable) {
    now.reader = now.port.readable.getReader();
    try {
      for (;;) {
        const { value, done } = await now.reader.read();
        if (done) break;
        await keep(whole(words.decode(value, { stream: true })), since);
      }
    } catch (wrong) {
      show("serial-state", `the port stumbled: ${wrong.message}`);
    } finally {
      now.reader.releaseLock();
    }
  }
}

async function begin(event) {
  event.preventDefault();
  const said = new FormData(form), reset = said.get("reset") === "on";
  try {
    const port = await navigator.serial.requestPort();
    await port.open({ baudRate: Number(said.get("baud")) });
    await port.setSignals({ dataTerminalReady: reset, requestToSend: reset });
    now.port = port;
  } catch (wrong) {
    show("serial-state", `no port: ${wrong.message}`);
    return;
  }
  const constants = {};
  for (const name of ["rig", "stop", "receiver"]) if (said.get(name)) constants[name] = said.get(name);
  const since = {
    walk: form.dataset.walk, url: form.dataset.lines, source: said.get("source") || "board",
    start: Date.now().toString(36), constants,
    at: new Date().toISOString(),
  };
  Object.assign(now, { reading: true, read: 0, cut: "" });
  show("serial-state", "reading");
  document.getElementById("serial-stop-reading").hidden = false;
  await follow(since);
  await keep(now.cut ? [now.cut] : [], since);
  show("serial-state", now.reading ? "the port is gone; choose it again to go on" : "not reading");
  document.getElementById("serial-stop-reading").hidden = true;
  now.reading = false;
  await now.port.close().catch(() => {});
}

async function halt() {
  now.reading = false;
  await now.reader?.cancel().catch(() => {});
}

// lines of one start that follow each other, so that the app can number them
function together(items) {
  const same = (one, i) => one.url === items[0].url && one.source === items[0].source
    && one.start === items[0].start && one.number === items[0].number + i;
  let end = 1;
  while (end < items.length && same(items[end], end)) end += 1;
  return items.slice(0, end);
}

async function send() {
  let wait = SEND_MS;
  try {
    const items = await spool.first(MOST_LINES);
    if (items.length) {
      const batch = together(items), { url, source, start, constants, number, at } = batch[0];
      const answer = await post(url, { source, start, first: number, lines: batch.map((one) => one.text), came: batch.map((one) => one.came), constants, at });
      if (answer.ok) {
        await spool.drop(batch);
        wait = batch.length === MOST_LINES ? 0 : SEND_MS;
      } else {
        const told = await answer.json().catch(() => ({}));
        show("serial-state", told.detail || `the app answered ${answer.status}`);
        wait = AGAIN_MS;
      }
    }
    show("serial-unsent", await spool.count());
  } catch {
    show("serial-unsent", `${await spool.count()} – the app is away`);
    wait = AGAIN_MS;
  }
  setTimeout(send, wait);
}

if ("serial" in navigator) form.addEventListener("submit", begin);
else {
  document.getElementById("no-serial").hidden = false;
  form.querySelector("[type=submit]").disabled = true;
}
document.getElementById("serial-stop-reading").addEventListener("click", halt);
send();
