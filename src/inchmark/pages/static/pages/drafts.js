// What is typed into a form marked data-draft stays in this browser until the app says it has it.
const form = document.querySelector("form[data-draft]");
const SENT = "inchmark-draft-sent";
const key = `inchmark-draft-${location.pathname}${location.search}`;

function fields() {
  return [...form.elements].filter((one) => one.name && !["hidden", "submit", "file", "password"].includes(one.type));
}

function keep() {
  localStorage.setItem(key, JSON.stringify(Object.fromEntries(fields().map((one) => [one.name, one.value]))));
}

function putBack() {
  const known = JSON.parse(localStorage.getItem(key) || "null");
  if (!known) return;
  let changed = 0;
  for (const one of fields()) {
    if (known[one.name] === undefined || known[one.name] === one.value) continue;
    one.value = known[one.name];
    changed += 1;
  }
  if (changed) form.querySelector("[data-draft-said]").hidden = false;
}

const sent = sessionStorage.getItem(SENT);
if (sent && document.querySelector(".message-success")) {
  localStorage.removeItem(sent);
  sessionStorage.removeItem(SENT);
}
if (form) {
  putBack();
  form.addEventListener("input", keep);
  form.addEventListener("submit", () => { keep(); sessionStorage.setItem(SENT, key); });
}
