"""The browser and the stand-in instrument, for tests and pictures."""

import os

CHROMIUM = os.environ.get("OIDO_CHROMIUM", "/usr/bin/chromium")
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-quic",
    "--autoplay-policy=no-user-gesture-required",
]

MIDI_STAND_IN = """
(() => {
  const inputs = new Map();
  const sent = [];
  const outputs = new Map([["o1", { id: "o1", name: "Stand-in keys", state: "connected", send: (bytes, time) => sent.push([time, ...bytes]) }]]);
  const access = Object.assign(new EventTarget(), { inputs, outputs, onstatechange: null });
  const changed = () => {
    access.onstatechange?.();
    access.dispatchEvent(new Event("statechange"));
  };
  const plug = (id, name) => {
    inputs.set(id, { id, name, state: "connected", onmidimessage: null });
    changed();
  };
  plug("1", "Stand-in keys");
  navigator.requestMIDIAccess = () => Promise.resolve(access);
  navigator.permissions.query = () => Promise.resolve({ state: "granted" });
  window.midiStandIn = {
    plug,
    sent,
    unplug(id) {
      inputs.delete(id);
      changed();
    },
    send(bytes, timeStamp = performance.now(), id = "1") {
      inputs.get(id)?.onmidimessage?.({ data: Uint8Array.from(bytes), timeStamp });
    },
  };
})();
"""
"""Instruments for the browser's own interface, to be plugged and unplugged: the page cannot tell them
from real ones."""
