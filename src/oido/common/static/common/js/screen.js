/** The width of the window, for the server: music is drawn to fit (`oido/common/screen.py`). */

function write() {
  document.cookie = `window-width=${document.documentElement.clientWidth}; path=/; max-age=31536000; samesite=lax`;
}

write();
window.addEventListener("resize", write);
