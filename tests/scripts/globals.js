// What a browser has and Debian's Node lacks, and a channel between pages that holds up no end; loaded before any script.
import { File } from "node:buffer";
import { webcrypto } from "node:crypto";
import { BroadcastChannel } from "node:worker_threads";

globalThis.crypto ??= webcrypto;
globalThis.File ??= File;
globalThis.BroadcastChannel = class extends BroadcastChannel {
  constructor(name) {
    super(name);
    this.unref();
  }
};
