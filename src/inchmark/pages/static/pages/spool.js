// What has to reach the app, kept in the browser's own database until it has. In order, each once.
const DATABASE = "inchmark-spool";

function asked(request) {
  return new Promise((kept, failed) => {
    request.addEventListener("success", () => kept(request.result));
    request.addEventListener("error", () => failed(request.error));
  });
}

function over(transaction) {
  return new Promise((kept, failed) => {
    transaction.addEventListener("complete", kept);
    transaction.addEventListener("abort", () => failed(transaction.error));
  });
}

export class Spool {
  // Items of one kind for one address; several pages of one browser may share it.
  constructor(kind) {
    this.kind = kind;
  }

  async open() {
    const request = indexedDB.open(DATABASE, 1);
    request.addEventListener("upgradeneeded", () => {
      const items = request.result.createObjectStore("items", { keyPath: "id", autoIncrement: true });
      items.createIndex("kind", "kind");
    });
    this.database = await asked(request);
    return this;
  }

  items(mode) {
    return this.database.transaction("items", mode, { durability: "strict" }).objectStore("items");
  }

  add(values) {
    const items = this.items("readwrite");
    for (const value of values) items.add({ kind: this.kind, ...value });
    return over(items.transaction);
  }

  first(most) {
    return asked(this.items("readonly").index("kind").getAll(this.kind, most));
  }

  count() {
    return asked(this.items("readonly").index("kind").count(this.kind));
  }

  drop(values) {
    const items = this.items("readwrite");
    for (const value of values) items.delete(value.id);
    return over(items.transaction);
  }
}

export async function post(url, body) {
  const token = document.querySelector("[name=csrfmiddlewaretoken]").value;
  return fetch(url, {
    method: "POST",
    headers: { "Content-Type": "application/json", "X-CSRFToken": token },
    body: JSON.stringify(body),
  });
}
