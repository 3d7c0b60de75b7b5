// What is said during a walk (taps, notes, looks): into the browser's own database first, to the app in order, each once.
import { Spool, post } from "./spool.js";

const SEND_MS = 700, HIDDEN_MS = 15_000, AGAIN_MS = 5000, MOST = 500;

export class Marks {
  // `said` is called with how many are kept here and why, if they do not go.
  constructor(walk, url, said) {
    this.place = `inchmark-marks-${walk}`;
    this.url = url;
    this.said = said;
    this.spool = new Spool(`mark-${walk}`);
    this.waiting = null;
  }

  async begin() {
    await this.spool.open();
    this.turn();
    return this;
  }

  state() {
    const fresh = { start: `${Date.now().toString(36)}-${Math.random().toString(36).slice(2, 8)}`, through: 0 };
    const known = JSON.parse(localStorage.getItem(this.place) || "null") || fresh;
    localStorage.setItem(this.place, JSON.stringify(known));
    return known;
  }

  async say(mark) {
    await this.spool.add([{ at: new Date().toISOString(), ...mark }]);
    this.turn();
  }

  turn() {
    clearTimeout(this.waiting);
    const send = () => this.send();
    // one page of this browser sends at a time: they share the numbers
    if (navigator.locks) navigator.locks.request(this.place, send);
    else send();
  }

  async send() {
    let wait = document.hidden ? HIDDEN_MS : SEND_MS, words = "";
    const items = await this.spool.first(MOST), state = this.state();
    if (items.length) {
      const marks = items.map(({ id: _id, kind: _kind, what, ...rest }) => ({ kind: what, ...rest }));
      try {
        const answer = await post(this.url, { start: state.start, first: state.through + 1, marks });
        const told = await answer.json().catch(() => ({}));
        if (answer.ok && told.through) {
          await this.spool.drop(items);
          localStorage.setItem(this.place, JSON.stringify({ ...state, through: told.through }));
          if (items.length === MOST) wait = 0;
        } else {
          words = told.detail || (answer.status === 403 || answer.redirected ? "sign in again" : `the app answered ${answer.status}`);
          wait = AGAIN_MS;
        }
      } catch {
        words = "no network";
        wait = AGAIN_MS;
      }
    }
    const left = await this.spool.count();
    this.said(left, words);
    clearTimeout(this.waiting);
    if (left) this.waiting = setTimeout(() => this.turn(), wait);
  }
}
