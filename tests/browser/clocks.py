"""An audio clock for pages whose tests are not about this machine's sound."""

IDEAL_CLOCK = """
(() => {
  const running = () => performance.now() / 1000 - 0.25;
  let held = null;
  window.holdClock = (isHeld) => (held = isHeld ? running() : null);
  const seconds = () => held ?? running();
  Object.defineProperty(BaseAudioContext.prototype, "currentTime", { get: seconds });
  let n = 0;
  AudioContext.prototype.getOutputTimestamp = () => {
    n += 1;
    const noise = 0.4 * Math.sin(12.9898 * n) + (n % 10 === 0 ? 2.5 : 0);
    return { contextTime: seconds(), performanceTime: performance.now() + noise };
  };
})();
"""
"""An audio clock that never stumbles, read with noise of 0.4 ms and an outlier in every ten; it stands still while it is held."""
