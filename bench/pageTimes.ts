/** Milliseconds from an event to the end of the frame that shows it, measured in the page. */
export const MEASURE = `window.__times = []; window.__watch = (name) => window.addEventListener(name, () => {
  const start = performance.now();
  requestAnimationFrame(() => { const channel = new MessageChannel(); channel.port1.onmessage = () => window.__times.push(performance.now() - start); channel.port2.postMessage(0) })
}, true)`
