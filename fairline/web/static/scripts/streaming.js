// A page nobody sees lets go of its stream: a browser keeps few connections to one host, and a
// seventh tab would wait for them. Seen again, it asks anew and is told at once how things stand.

class Stream {
  constructor(url) {
    this.url = url;
    this.heard = [];
    this.turn = () => (document.hidden ? this.rest() : this.go());
    document.addEventListener("visibilitychange", this.turn);
    this.turn();
  }

  get readyState() {
    return this.source?.readyState ?? EventSource.CONNECTING;
  }

  go() {
    if (this.source) return;
    this.source = new EventSource(this.url, { withCredentials: true });
    this.source.onopen = (event) => this.onopen?.(event);
    this.source.onerror = (event) => {
      const ended = this.source.readyState === EventSource.CLOSED;
      this.onerror?.(event);
      if (ended) this.close(); // another one is made in its place
    };
    this.heard.forEach(([name, hear]) => this.source.addEventListener(name, hear));
  }

  rest() {
    this.source?.close();
    this.source = null;
  }

  close() {
    document.removeEventListener("visibilitychange", this.turn);
    this.rest();
  }

  addEventListener(name, hear) {
    this.heard.push([name, hear]);
    this.source?.addEventListener(name, hear);
  }

  removeEventListener(name, hear) {
    this.heard = this.heard.filter(([n, h]) => n !== name || h !== hear);
    this.source?.removeEventListener(name, hear);
  }
}

globalThis.htmx.createEventSource = (url) => new Stream(url);
