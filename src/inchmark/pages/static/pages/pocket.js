// Photos taken on a phone: the picture itself into the browser's own database, to the app one by one, each once.
import { Spool } from "./spool.js";

const AGAIN_MS = 8000, HIDDEN_MS = 30_000;

export class Pocket {
  // `said` is called with how many are kept here and why, if they do not go.
  constructor(walk, url, said) {
    this.place = `inchmark-photos-${walk}`;
    this.url = url;
    this.said = said;
    this.spool = new Spool(`photo-${walk}`);
    this.waiting = null;
  }

  async begin() {
    await this.spool.open();
    this.turn();
  }

  async keep(file, told) {
    await this.spool.add([{ at: new Date().toISOString(), file, ...told }]);
    this.turn();
  }

  turn() {
    clearTimeout(this.waiting);
    const send = () => this.send();
    if (navigator.locks) navigator.locks.request(this.place, send);
    else send();
  }

  async send() {
    const [photo] = await this.spool.first(1);
    if (!photo) { this.said(0, ""); return; }
    let words = "", wait = 0;
    try {
      const body = new FormData();
      for (const name of ["at", "stop", "text"]) body.append(name, photo[name]);
      body.append("file", photo.file, "photo");
      const token = document.querySelector("[name=csrfmiddlewaretoken]").value;
      const answer = await fetch(this.url, { method: "POST", headers: { "Accept": "application/json", "X-CSRFToken": token }, body });
      const { detail } = await answer.json().catch(() => ({ detail: "sign in again" }));
      // a picture that is none will never be taken: it is said, and kept no longer
      if (answer.ok && !answer.redirected || answer.status === 422) await this.spool.drop([photo]);
      else wait = AGAIN_MS;
      words = detail || (answer.ok ? "" : `the app answered ${answer.status}`);
    } catch {
      words = "no network";
      wait = AGAIN_MS;
    }
    this.said(await this.spool.count(), words);
    this.waiting = setTimeout(() => this.turn(), document.hidden && wait ? HIDDEN_MS : wait);
  }
}
