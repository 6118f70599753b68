// Which elements can be seen, or will be soon: what cannot is drawn later.

/** Watches what is in sight, or within so many pixels of it. All is, where a browser cannot say. */
class Sight {
  private outside = new WeakSet<Element>();
  private changed = new WeakMap<Element, (inside: boolean) => void>();
  private observer: IntersectionObserver | null = null;

  constructor(pixels: number) {
    if (typeof IntersectionObserver !== "function") return;
    const margin = `${pixels}px`;
    const init = { rootMargin: margin, scrollMargin: margin } as IntersectionObserverInit;
    this.observer = new IntersectionObserver((entries) => {
      for (const { target, isIntersecting } of entries) {
        if (this.has(target) === isIntersecting) continue;
        if (isIntersecting) this.outside.delete(target);
        else this.outside.add(target);
        this.changed.get(target)?.(isIntersecting);
      }
    }, init);
  }

  /** Whether an element is there; one that is not watched yet is. */
  has(el: Element) {
    return !this.outside.has(el);
  }

  /** Calls when an element comes or goes, until the returned function is called. */
  watch(el: Element, changed: (inside: boolean) => void) {
    this.changed.set(el, changed);
    this.observer?.observe(el);
    return () => this.observer?.unobserve(el);
  }
}

export const inSight = new Sight(0);
export const near = new Sight(200);
