import { configure } from "@testing-library/react";

import { fetching } from "./fetching";

/** Addresses of the page are relative to its server; outside a browser there is none to be relative to. */
class RelativeRequest extends Request {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    // The signals of the test's window are not those of Node: requests here are answered at once.
    const { signal: _signal, ...rest } = init ?? {};
    super(typeof input === "string" && input.startsWith("/") ? `http://server${input}` : input, rest);
  }
}

globalThis.Request = RelativeRequest;
// The client takes fetch when it is made: what answers can be changed later.
globalThis.fetch = (input, init) => fetching.answer(input, init);

// What a page without a browser leaves out and lists need: the pointer is never captured, and nothing scrolls.
if (typeof Element !== "undefined" && !("hasPointerCapture" in Element.prototype)) {
  Object.assign(Element.prototype, { hasPointerCapture: () => false, scrollIntoView: () => undefined });
}

// Beside other work a second is soon gone. Whether each element may be hidden takes longer to find out than the rest of
// a query by role.
configure({ asyncUtilTimeout: 10_000, defaultHidden: true });

/** Nothing has a size without a browser: there is nothing to observe. */
class NoResizes implements ResizeObserver {
  observe = () => undefined;
  unobserve = () => undefined;
  disconnect = () => undefined;
}
globalThis.ResizeObserver ??= NoResizes;
