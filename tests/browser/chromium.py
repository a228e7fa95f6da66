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
  const access = { inputs, onstatechange: null };
  const plug = (id, name) => {
    inputs.set(id, { id, name, state: "connected", onmidimessage: null });
    access.onstatechange?.();
  };
  plug("1", "Stand-in keys");
  navigator.requestMIDIAccess = () => Promise.resolve(access);
  window.midiStandIn = {
    plug,
    unplug(id) {
      inputs.delete(id);
      access.onstatechange?.();
    },
    send(bytes, timeStamp = performance.now(), id = "1") {
      inputs.get(id)?.onmidimessage?.({ data: Uint8Array.from(bytes), timeStamp });
    },
  };
})();
"""
"""Instruments for the browser's own interface, to be plugged and unplugged: the page cannot tell them
from real ones."""
