// The pages that are kept on this device, on the page that stands for those that are not.
import { find } from "./dom.js";

async function listKept() {
  const list = find("[data-kept-pages]");
  for (const name of await caches.keys()) {
    if (!name.startsWith("eyot-pages-")) continue;
    const pages = await caches.open(name);
    for (const request of [...await pages.keys()].reverse()) {
      const answer = await pages.match(request, { ignoreVary: true }), title = /<title>([^<]*)/.exec(await answer.text());
      const item = document.createElement("li"), link = document.createElement("a");
      link.href = request.url;
      link.textContent = title ? title[1].trim().replace(" · Eyot", "") : request.url;
      item.append(link);
      list.append(item);
    }
  }
}

if (find("[data-kept-pages]")) listKept();
