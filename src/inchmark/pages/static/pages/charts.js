// Reads out the words of a mark in a chart; the charts themselves are drawn on the server.
function tell(event) {
  const mark = event.target.closest?.(".chart a[aria-label]");
  const readout = mark?.closest("figure")?.querySelector(".readout");
  if (readout) readout.textContent = mark.getAttribute("aria-label");
}

document.addEventListener("mouseover", tell);
document.addEventListener("focusin", tell);
