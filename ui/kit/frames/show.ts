/** Writes a text where another one stands: what stays as it is is not laid out again. */
export function showText(element: Element, text: string): void {
  if (element.textContent !== text) element.textContent = text;
}

/** Likewise a mark of an element, as `data-…`. */
export function showMark(element: HTMLElement, name: string, value: string): void {
  if (element.dataset[name] !== value) element.dataset[name] = value;
}

/** Likewise an attribute. */
export function showAttribute(element: Element, name: string, value: string): void {
  if (element.getAttribute(name) !== value) element.setAttribute(name, value);
}
