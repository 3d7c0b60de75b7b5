// What the maps of a site share: signs of places, walls, and drawing a wall.

export function sign(label, kind) {
  const words = document.createElement("span");
  words.textContent = label; // never as HTML: names are typed by people
  const wide = Math.max(24, 9 * label.length + 8);
  return L.divIcon({ className: `map-sign map-${kind}`, html: words, iconSize: [wide, 26], iconAnchor: [wide / 2, 26] });
}

export function showWalls(map, walls) {
  walls.forEach(([name, points, loss]) => {
    const weight = loss === null ? 3 : Math.min(2 + loss / 4, 7);
    const words = document.createElement("span");
    words.textContent = loss === null ? name : `${name}, ${loss.toFixed(1)} dB`;
    L.polyline(points, { className: "map-wall", weight, lineCap: "butt" }).addTo(map).bindTooltip(words, { sticky: true });
  });
}

const MOST = 60; // points that fit into an address

// A wall in the making: begin(at) starts one, every further click adds a point until it is kept or left.
export function wallPen(map, address, bar, said) {
  const line = L.polyline([], { className: "map-wall map-wall-new", weight: 4 }).addTo(map);
  const pen = { on: false };
  const tell = () => {
    const count = line.getLatLngs().length;
    said.textContent = count < 2 ? "Click where the wall goes on." : `${count} points. Click on, or keep this wall.`;
    bar.querySelector("[data-wall=end]").disabled = count < 2;
  };
  const leave = () => {
    line.setLatLngs([]);
    pen.on = false;
    bar.hidden = true;
    map.doubleClickZoom.enable();
    said.textContent = "";
  };
  pen.add = (at) => {
    if (line.getLatLngs().length < MOST) {
      line.addLatLng(at);
      tell();
    } else {
      said.textContent = `A wall drawn here has ${MOST} points at most. Keep it, and begin the next where it ends.`;
    }
  };
  pen.begin = (at) => {
    pen.on = true;
    bar.hidden = false;
    map.doubleClickZoom.disable(); // two quick clicks are two points
    pen.add(at);
  };
  const acts = {
    end: () => {
      const points = line.getLatLngs().map((at) => `${at.lat.toFixed(7)},${at.lng.toFixed(7)}`);
      location.assign(`${address}?points=${encodeURIComponent(points.join(";"))}`);
    },
    back: () => {
      line.setLatLngs(line.getLatLngs().slice(0, -1));
      if (line.getLatLngs().length) {
        tell();
      } else {
        leave();
      }
    },
    leave,
  };
  bar.addEventListener("click", ({ target }) => acts[target.dataset.wall]?.());
  return pen;
}
