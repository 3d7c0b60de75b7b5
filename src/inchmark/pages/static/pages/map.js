// The site from above: what the server computed, drawn by Leaflet; dragging a stop asks the server.

import { showWalls, sign, wallPen } from "./map-parts.js";

const data = JSON.parse(document.getElementById("map-data").textContent);
const said = document.getElementById("map-said");
const token = document.querySelector("[name=csrfmiddlewaretoken]")?.value
  || JSON.parse(document.body.getAttribute("hx-headers") || "{}")["X-CSRFToken"];

const places = [
  ...(data.fixed ? [data.fixed.slice(0, 2)] : []),
  ...[...data.stops, ...data.points].map((one) => one.slice(2, 4)),
  ...(data.next ? [data.next.slice(0, 2)] : []),
  ...data.walls.flatMap(([, points]) => points),
];
const map = L.map("site-map", { attributionControl: Boolean(data.tiles), zoomSnap: 0.5 });
map.fitBounds(L.latLngBounds(places).pad(0.25), { maxZoom: places.length > 1 ? 22 : 18 });
L.control.scale({ imperial: false }).addTo(map);

if (data.tiles) {
  const [address, credit] = data.tiles;
  const text = document.createElement("span");
  text.textContent = credit;
  map.attributionControl.setPrefix(false);
  L.tileLayer(address, { attribution: text.innerHTML, maxNativeZoom: 19, maxZoom: 24 }).addTo(map).once("tileerror", () => {
    said.textContent = "The tile server does not answer; the map goes on without its pictures.";
  });
}

const pen = wallPen(map, data.wall, document.getElementById("map-wall"), said);

map.on("click", ({ latlng }) => {
  if (pen.on) {
    pen.add(latlng);
    return;
  }
  const there = `lat=${latlng.lat.toFixed(6)}&lon=${latlng.lng.toFixed(6)}`;
  const list = document.createElement("p");
  Object.entries(data.add).forEach(([words, address]) => {
    const link = Object.assign(document.createElement("a"), { href: `${address}?${there}`, textContent: words });
    list.append(link, document.createElement("br"));
  });
  const wall = Object.assign(document.createElement("button"), { type: "button", className: "link", textContent: "A wall begins here" });
  wall.addEventListener("click", () => {
    map.closePopup();
    pen.begin(latlng);
  });
  list.append(wall);
  L.popup().setLatLng(latlng).setContent(list).openOn(map);
});

data.bands.forEach(([, , polygons], i) => {
  if (polygons.length) {
    L.polygon(polygons, { className: `map-band band-${i + 1}`, stroke: false, interactive: false }).addTo(map);
  }
});
data.contours.forEach(([height, points]) => {
  L.polyline(points, { className: "map-contour", interactive: false, weight: 1 }).addTo(map)
    .bindTooltip(`${height} m`);
});

data.features.forEach(([kind, name, rings, cover]) => {
  const style = { className: `map-${kind}${cover ? " map-cover" : ""}`, weight: 1.5, interactive: Boolean(name) };
  const words = document.createElement("span");
  words.textContent = cover ? `${name} (${cover})` : name;
  const drawn = {
    mark: () => L.circleMarker(rings[0][0], { ...style, radius: 4 }),
    line: () => L.polyline(rings[0], { ...style, weight: 2.5 }),
    area: () => L.polygon(rings, style),
  }[kind]().addTo(map);
  if (name) {
    drawn.bindTooltip(words, { sticky: true });
  }
});

showWalls(map, data.walls);

if (data.fixed) {
  const [lat, lon, name] = data.fixed;
  const fixed = L.marker([lat, lon], { icon: sign("", "fixed"), title: name }).addTo(map);
  fixed.getElement().setAttribute("aria-label", name);
  if (data.needed) {
    L.circle([lat, lon], { radius: data.needed, className: "map-needed", fill: false, interactive: false }).addTo(map);
  }
}

if (data.next) {
  const [lat, lon, where, why] = data.next;
  const words = document.createElement("span");
  words.textContent = `${why} Here: ${where}.`;
  const next = L.marker([lat, lon], { icon: sign("next", "next"), title: `Stand here next: ${where}` }).addTo(map);
  next.getElement().setAttribute("aria-label", `Stand here next: ${where}`);
  next.bindTooltip(words);
}

function draggable([label, name, lat, lon, address], icon, noun) {
  const marker = L.marker([lat, lon], { icon, draggable: true, title: `${label} ${name}` }).addTo(map);
  marker.getElement().setAttribute("aria-label", `${noun} ${label}`);
  let last = marker.getLatLng();
  marker.on("dragend", async () => {
    const at = marker.getLatLng();
    const body = new URLSearchParams({ lat: at.lat.toFixed(6), lon: at.lng.toFixed(6) });
    const answer = await fetch(address, { method: "POST", body, headers: { "X-CSRFToken": token } }).catch(() => null);
    const told = answer ? await answer.json().catch(() => ({})) : {};
    if (answer?.ok) {
      last = at;
      said.textContent = `${noun} ${label} moved; ${Math.round(told.distance_m)} m from the fixed end.`;
    } else {
      marker.setLatLng(last);
      said.textContent = told.problem || `The move did not go through; ${noun} ${label} stays where it was.`;
    }
  });
}

data.points.forEach((point) => {
  const [label, kind] = [point[0], point[5]];
  const band = data.shares[label] ? ` band-${data.shares[label][1]}` : "";
  draggable(point, sign(label, kind + band), kind === "node" ? "Needed place" : "Receiver");
});
data.stops.forEach((stop) => draggable(stop, sign(stop[0], "stop"), "Stop"));
