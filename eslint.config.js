// The scripts of the pages: what a browser has, and the three libraries that ship beside them.
import js from "@eslint/js";

const of = (...names) => Object.fromEntries(names.map((name) => [name, "readonly"]));

const rules = {
  complexity: ["error", 10],
  eqeqeq: "error",
  "max-len": ["error", { code: 130 }],
  "no-var": "error",
  "prefer-const": "error",
};

export default [
  { ignores: ["**/vendor/**", "node_modules/**", ".venv/**"] },
  js.configs.recommended,
  {
    files: ["fairline/web/static/scripts/*.js"],
    languageOptions: {
      sourceType: "module",
      globals: of("document", "EventSource", "window", "Event", "HTMLElement", "HTMLFormElement", "setTimeout", "clearTimeout",
        "setInterval", "clearInterval", "Alpine", "Idiomorph", "localStorage", "matchMedia", "CSS", "crypto",
        "fetch", "history", "URL", "CustomEvent", "DOMParser", "File", "FormData", "URLSearchParams", "Intl", "location", "navigator", "htmx"),
    },
    rules: { ...rules, "max-len": ["error", { code: 110 }] },
  },
  {
    files: ["fairline/web/static/worker.js"],
    languageOptions: {
      sourceType: "script",
      globals: of("self", "caches", "fetch", "URL", "Response", "Headers", "VERSION", "STATIC"),
    },
    rules,
  },
];
