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
  const input = { name: "Stand-in keys", state: "connected", onmidimessage: null };
  const access = { inputs: new Map([["1", input]]), onstatechange: null };
  navigator.requestMIDIAccess = () => Promise.resolve(access);
  window.midiStandIn = {
    send(bytes, timeStamp = performance.now()) {
      input.onmidimessage?.({ data: Uint8Array.from(bytes), timeStamp });
    },
  };
})();
"""
"""An instrument for the browser's own interface: the page cannot tell it from a real one."""
