// What the page has besides the browser's own: htmx, and the events by which it and our scripts tell of one another.
interface HtmxDetail {
  formData: FormData;
  path: string;
  shouldSwap: boolean;
  target: HTMLElement;
  requestConfig: { elt: Element; parameters: Record<string, string>; path: string; verb: string };
  xhr: XMLHttpRequest;
}

interface HTMLElementEventMap {
  "htmx:configRequest": CustomEvent<HtmxDetail>;
  "htmx:beforeRequest": CustomEvent<HtmxDetail>;
  "htmx:beforeSend": CustomEvent<HtmxDetail>;
  "htmx:afterRequest": CustomEvent<HtmxDetail>;
  "htmx:beforeSwap": CustomEvent<HtmxDetail>;
  "htmx:afterSwap": CustomEvent<HtmxDetail>;
}

declare const htmx: { ajax(verb: string, url: string, context: object): Promise<void> };
