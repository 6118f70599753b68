// Small pictures that are painted again and again, such as heads of hits: each is drawn once
// and then copied, which without a graphics card takes a sixth of the time.

const stamps = new Map<string, HTMLCanvasElement>();
const most = 256;

/**
 * Puts a picture of so many pixels about a place, on whole pixels of the screen. The key says all
 * that it depends on; draw paints it about the middle.
 */
export function stamp(
  pen: CanvasRenderingContext2D,
  key: string,
  size: number,
  x: number,
  y: number,
  draw: (pen: CanvasRenderingContext2D) => void,
) {
  const sharp = globalThis.devicePixelRatio || 1;
  const name = `${key} ${size} ${sharp}`;
  let picture = stamps.get(name);
  if (!picture) {
    picture = document.createElement("canvas");
    picture.width = picture.height = Math.ceil(size * sharp);
    const into = picture.getContext("2d");
    if (!into) return;
    into.setTransform(sharp, 0, 0, sharp, picture.width / 2, picture.height / 2);
    draw(into);
    if (stamps.size >= most) stamps.clear(); // of other themes
    stamps.set(name, picture);
  }
  const wide = picture.width / sharp;
  const whole = (at: number) => Math.round((at - wide / 2) * sharp) / sharp;
  pen.drawImage(picture, whole(x), whole(y), wide, wide);
}
