// Where this phone is, only where somebody asks for it: into the browser's own database, then to the app, each once.
import { Spool, post } from "./spool.js";

const EVERY_MS = 4000, SEND_MS = 10_000, MOST = 500;

export class Positions {
  constructor(walk, url, state, remember, said) {
    Object.assign(this, { url, state, remember, said, last: 0, watch: null, spool: new Spool(`position-${walk}`) });
  }

  async begin() {
    await this.spool.open();
    this.send();
    return this;
  }

  on() {
    if (!navigator.geolocation) { this.said("this browser does not tell"); return; }
    this.watch = navigator.geolocation.watchPosition((found) => this.keep(found), (wrong) => this.said(wrong.message), { enableHighAccuracy: true });
  }

  off() {
    if (this.watch !== null) navigator.geolocation.clearWatch(this.watch);
    this.watch = null;
    this.said("");
  }

  async keep({ coords, timestamp }) {
    this.said(`${coords.latitude.toFixed(5)}, ${coords.longitude.toFixed(5)} ±${Math.round(coords.accuracy)} m`);
    if (timestamp - this.last < EVERY_MS) return;
    this.last = timestamp;
    await this.spool.add([{ at: new Date(timestamp).toISOString(), lat: coords.latitude, lon: coords.longitude, accuracy_m: coords.accuracy }]);
  }

  async send() {
    const items = await this.spool.first(MOST);
    if (items.length) {
      try {
        const positions = items.map(({ at, lat, lon, accuracy_m }) => ({ at, lat, lon, accuracy_m }));
        const answer = await post(this.url, { start: this.state.start, first: this.state.placed + 1, positions });
        if (answer.ok) {
          this.state.placed = (await answer.json()).through;
          this.remember();
          await this.spool.drop(items);
        }
      } catch {
        // no network: they stay here
      }
    }
    setTimeout(() => this.send(), document.hidden ? 3 * SEND_MS : SEND_MS);
  }
}
