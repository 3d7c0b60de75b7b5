// Files dropped anywhere on the page, or chosen, go straight on; without scripts there is a button.
const form = document.querySelector("form[data-drop]");
const input = form?.querySelector('input[type="file"]');

function over(event) {
  if (![...event.dataTransfer.types].includes("Files")) return;
  event.preventDefault();
  document.body.classList.add("dropping");
}

function dropped(event) {
  document.body.classList.remove("dropping");
  if (!event.dataTransfer.files.length) return;
  event.preventDefault();
  input.files = event.dataTransfer.files;
  form.requestSubmit();
}

if (form && input) {
  input.addEventListener("change", () => { if (input.files.length) form.requestSubmit(); });
  document.addEventListener("dragover", over);
  document.addEventListener("dragleave", (event) => { if (!event.relatedTarget) document.body.classList.remove("dropping"); });
  document.addEventListener("drop", dropped);
}
