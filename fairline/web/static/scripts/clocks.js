// Clocks: a hold that runs on, and a watch on bubbles. Moments are the server's: a phone's own clock
// may be minutes off.

const aheadMs = Date.parse(document.body?.dataset.now ?? "") - Date.now();
/** The server's clock now, in ms. */
const serverNow = () => Date.now() + (aheadMs || 0);

// A watch on bubbles: started by hand, its time goes into the field beside it.
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-watch]");
  const field = button && document.getElementById(button.dataset.watch);
  if (!field || button.dataset.began) return;
  button.dataset.began = Date.now();
  const tick = () => {
    if (!button.isConnected || !button.dataset.began) return clearInterval(timer);
    const s = Math.floor((Date.now() - button.dataset.began) / 1000);
    button.textContent = `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
    field.value = `${s} s`;
  };
  const timer = setInterval(tick, 1000);
  tick();
});

document.addEventListener("alpine:init", () => {
  // What is left of a wait: stored charge that runs down.
  Alpine.data("countdown", () => ({
    shown: "",
    init() {
      const until = Date.parse(this.$el.dataset.until);
      const tick = () => {
        const s = Math.max(0, Math.ceil((until - serverNow()) / 1000));
        this.shown = `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
        if (!s) clearInterval(this.timer);
      };
      this.timer = setInterval(tick, 1000);
      tick();
    },
    destroy() {
      clearInterval(this.timer);
    },
  }));
  // A clock that runs on from the first reading of an open hold.
  Alpine.data("clock", () => ({
    shown: "",
    init() {
      const { since, first } = this.$el.dataset;
      const began = Date.parse(since) + Number(first) * 1000;
      const two = (n) => String(n).padStart(2, "0");
      const tick = () => {
        const s = Math.max(0, Math.floor((serverNow() - began) / 1000));
        const [h, m] = [Math.floor(s / 3600), Math.floor(s / 60) % 60];
        this.shown = h ? `${h}:${two(m)}:${two(s % 60)}` : `${m}:${two(s % 60)}`;
      };
      tick();
      this.timer = setInterval(tick, 1000);
    },
    destroy() {
      clearInterval(this.timer);
    },
  }));
});
