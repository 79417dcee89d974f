"use strict";
// A photo is made smaller on the device and sent. Where the server does not answer it waits in the
// browser's own database, with its key, and goes out with the next page that has a connection.

(() => {
  const SIDE_PX = 1600;
  const STORE = "photos";

  const opened = () =>
    new Promise((resolve, reject) => {
      const asked = indexedDB.open("ready-trail", 1);
      asked.onupgradeneeded = () => asked.result.createObjectStore(STORE, { keyPath: "key" });
      asked.onsuccess = () => resolve(asked.result);
      asked.onerror = () => reject(asked.error);
    });

  const inStore = async (mode, use) => {
    const base = await opened();
    try {
      return await new Promise((resolve, reject) => {
        const work = base.transaction(STORE, mode);
        const asked = use(work.objectStore(STORE));
        work.oncomplete = () => resolve(asked && asked.result);
        work.onerror = work.onabort = () => reject(work.error);
      });
    } finally {
      base.close();
    }
  };
  const waiting = () => inStore("readonly", (store) => store.getAll());

  const smaller = async (file) => {
    try {
      const image = await createImageBitmap(file, { imageOrientation: "from-image" });
      const share = Math.min(1, SIDE_PX / Math.max(image.width, image.height));
      const canvas = new OffscreenCanvas(Math.round(image.width * share), Math.round(image.height * share));
      canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
      return await canvas.convertToBlob({ type: "image/jpeg", quality: 0.85 });
    } catch {
      return file; // the server says what is wrong with it
    }
  };

  const send = async (photo) => {
    const body = new FormData();
    for (const [name, value] of Object.entries(photo.fields)) body.append(name, value);
    body.append("file", photo.data, "photo.jpg");
    const answer = await fetch(photo.url, { method: "POST", body, redirect: "manual" });
    if (answer.status >= 500) throw new Error("the server does not answer");
    return answer;
  };

  const say = async () => {
    const place = document.getElementById("photo-queue");
    if (!place) return;
    const count = (await waiting().catch(() => [])).length;
    place.hidden = !count;
    place.textContent = count ? `${count === 1 ? "One photo waits" : `${count} photos wait`} on this device for a connection.` : "";
  };

  const isTyped = () =>
    [...document.querySelectorAll("[data-photo] input:not([type=hidden])")].some(
      (field) => field.value !== field.defaultValue,
    );

  let sending = false;
  const sendWaiting = async () => {
    if (sending || !navigator.onLine) return;
    sending = true;
    let sent = 0;
    let refused = 0;
    try {
      for (const photo of await waiting()) {
        const answer = await send(photo);
        const taken = answer.type === "opaqueredirect";
        if (taken || answer.status === 422 || answer.status === 413) {
          await inStore("readwrite", (store) => store.delete(photo.key));
          if (taken) sent += 1;
          else refused += 1;
        }
      }
    } catch {
      // it waits on
    } finally {
      sending = false;
    }
    await say();
    const place = document.getElementById("photo-queue");
    if (refused && place) {
      place.hidden = false;
      place.textContent = `${refused === 1 ? "A photo that waited was" : `${refused} photos that waited were`} refused: too large, or no picture. Take it again. ${place.textContent}`;
    } else if (sent && place && !isTyped()) location.reload();
  };

  document.addEventListener("submit", async (event) => {
    const form = event.target.closest("[data-photo]");
    const file = form && form.elements.file.files[0];
    if (!file) return; // the server says that one is missing
    event.preventDefault();
    const fields = Object.fromEntries([...new FormData(form)].filter(([name]) => name !== "file"));
    const photo = { key: fields.key, url: form.action, fields, data: await smaller(file) };
    try {
      const answer = await send(photo);
      if (answer.type === "opaqueredirect") location.assign(form.dataset.photo);
      else {
        document.open();
        document.write(await answer.text());
        document.close();
      }
    } catch {
      try {
        await inStore("readwrite", (store) => store.put(photo));
      } catch {
        const place = document.getElementById("photo-queue");
        place.hidden = false;
        place.textContent = "This device's storage is full: the photo was not kept. Connect, and take it again.";
        return;
      }
      form.reset();
      form.elements.key.value = crypto.randomUUID();
      await say();
    }
  });

  addEventListener("online", sendWaiting);
  document.addEventListener("DOMContentLoaded", () => {
    say();
    sendWaiting();
  });
})();
