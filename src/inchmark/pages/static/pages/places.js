// Needed places from above: what is dragged goes to the server as part of the address, and what it says is drawn.

import { showWalls, sign } from "./map-parts.js";

const data = JSON.parse(document.getElementById("places-data").textContent);
const said = document.getElementById("map-said");
const map = L.map("site-map", { attributionControl: Boolean(data.tiles), zoomSnap: 0.5 });
const spots = [data.fixed, ...data.receivers, ...data.places.map((one) => one.slice(2, 4))].filter(Boolean);
map.fitBounds(L.latLngBounds(spots.map((one) => one.slice(0, 2))).pad(0.2), { maxZoom: spots.length > 1 ? 22 : 17 });
L.control.scale({ imperial: false }).addTo(map);
if (data.tiles) {
  const credit = document.createElement("span");
  credit.textContent = data.tiles[1];
  map.attributionControl.setPrefix(false);
  L.tileLayer(data.tiles[0], { attribution: credit.innerHTML, maxNativeZoom: 19, maxZoom: 24 }).addTo(map);
}

const shapes = { holds: "✓", open: "?", short: "!" };
const shading = L.layerGroup().addTo(map);
const receivers = data.receivers.map(([lat, lon]) => L.latLng(lat, lon));
let fixed = null;
let drawing = 0;

function query() {
  const asked = new URLSearchParams(location.search);
  asked.set("rig", data.rig);
  asked.delete("rx");
  receivers.forEach((at) => asked.append("rx", `${at.lat.toFixed(6)},${at.lng.toFixed(6)}`));
  if (fixed) {
    asked.set("fixed", `${fixed.lat.toFixed(6)},${fixed.lng.toFixed(6)}`);
  }
  return asked.toString();
}

async function shade() {
  drawing += 1;
  const mine = drawing;
  const answer = await fetch(`${data.bands}?${query()}`).catch(() => null);
  const found = answer?.ok ? await answer.json().catch(() => null) : null;
  if (mine !== drawing) {
    return; // dragged on meanwhile
  }
  if (!found) {
    said.textContent = "The map could not be drawn anew; it shows what was tried before.";
    return;
  }
  shading.clearLayers();
  found.bands.forEach(([, , polygons], i) => {
    if (polygons.length) {
      L.polygon(polygons, { className: `map-band band-${i + 1}`, stroke: false, interactive: false }).addTo(shading);
    }
  });
}

function follow() {
  const address = `${data.page}?${query()}`;
  history.replaceState(null, "", address);
  shade();
  htmx.ajax("GET", address, { target: "#tried", swap: "outerHTML" });
}

function movable(at, icon, words, moved) {
  const marker = L.marker(at, { icon, draggable: true, title: words }).addTo(map);
  marker.getElement().setAttribute("aria-label", words);
  marker.on("dragend", () => {
    moved(marker.getLatLng());
    follow();
  });
}

function receiver(i) {
  movable(receivers[i], sign(`R${i + 1}`, "receiver"), `Receiver ${i + 1}, tried`, (at) => { receivers[i] = at; });
}

showWalls(map, data.walls);
const nodes = Object.fromEntries(data.places.map(([label, name, lat, lon, verdict]) => {
  const node = L.marker([lat, lon], { icon: sign(`${label} ${shapes[verdict]}`, `node ${verdict}`), title: `${label} ${name}` });
  return [label, node.addTo(map)];
}));
if (data.fixed) {
  movable(data.fixed.slice(0, 2), sign("", "fixed"), `${data.fixed[2]}, drag to try it elsewhere`, (at) => { fixed = at; });
}
receivers.forEach((_, i) => receiver(i));
map.on("click", ({ latlng }) => {
  if (receivers.length < 4) {
    receivers.push(latlng);
    receiver(receivers.length - 1);
    follow();
  }
});

document.body.addEventListener("htmx:afterSettle", () => {
  const told = document.getElementById("tried")?.dataset.verdicts || "";
  told.split(";").filter(Boolean).map((one) => one.split("=")).forEach(([label, verdict]) => {
    nodes[label]?.setIcon(sign(`${label} ${shapes[verdict]}`, `node ${verdict}`));
  });
  shade();
});
shade();
