/* The site from above: what the server reckoned, drawn by Leaflet; dragging a stop asks the server. */
"use strict";

const data = JSON.parse(document.getElementById("map-data").textContent);
const said = document.getElementById("map-said");
const token = document.querySelector("[name=csrfmiddlewaretoken]")?.value
  || JSON.parse(document.body.getAttribute("hx-headers") || "{}")["X-CSRFToken"];

const places = [...(data.fixed ? [data.fixed.slice(0, 2)] : []), ...data.stops.map((stop) => stop.slice(2, 4))];
const map = L.map("site-map", { attributionControl: false, zoomSnap: 0.5 });
map.fitBounds(L.latLngBounds(places).pad(0.25), { maxZoom: 18 });
L.control.scale({ imperial: false }).addTo(map);

map.on("click", ({ latlng }) => {
  const there = `?lat=${latlng.lat.toFixed(6)}&lon=${latlng.lng.toFixed(6)}`;
  const link = Object.assign(document.createElement("a"), { href: data.add + there, textContent: "Add a stop here" });
  L.popup().setLatLng(latlng).setContent(link).openOn(map);
});

data.bands.forEach(([low, high, polygons], i) => {
  if (polygons.length) {
    L.polygon(polygons, { className: `map-band band-${i + 1}`, stroke: false, interactive: false }).addTo(map);
  }
});
data.contours.forEach(([height, points]) => {
  L.polyline(points, { className: "map-contour", interactive: false, weight: 1 }).addTo(map)
    .bindTooltip(`${height} m`);
});

function sign(label, kind) {
  const words = document.createElement("span");
  words.textContent = label; // never as HTML: names are typed by people
  return L.divIcon({ className: `map-sign map-${kind}`, html: words, iconSize: [22, 26], iconAnchor: [11, 26] });
}

if (data.fixed) {
  const [lat, lon, name] = data.fixed;
  const fixed = L.marker([lat, lon], { icon: sign("", "fixed"), title: name }).addTo(map);
  fixed.getElement().setAttribute("aria-label", name);
  if (data.needed) {
    L.circle([lat, lon], { radius: data.needed, className: "map-needed", fill: false, interactive: false }).addTo(map);
  }
}
data.stops.forEach(([label, name, lat, lon, address]) => {
  const marker = L.marker([lat, lon], {
    icon: sign(label, "stop"), draggable: true, title: `${label} ${name}`,
  }).addTo(map);
  marker.getElement().setAttribute("aria-label", `stop ${label}`);
  let last = marker.getLatLng();
  marker.on("dragend", async () => {
    const at = marker.getLatLng();
    const body = new URLSearchParams({ lat: at.lat.toFixed(6), lon: at.lng.toFixed(6) });
    const answer = await fetch(address, { method: "POST", body, headers: { "X-CSRFToken": token } }).catch(() => null);
    const told = answer ? await answer.json().catch(() => ({})) : {};
    if (answer?.ok) {
      last = at;
      said.textContent = `Stop ${label} moved; ${Math.round(told.distance_m)} m from the fixed end.`;
    } else {
      marker.setLatLng(last);
      said.textContent = told.problem || "The move did not go through; the stop stays where it was.";
    }
  });
});
