import { renderToStaticMarkup } from "react-dom/server";
import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { EffectCard } from "./EffectCard";
import { EffectPicture } from "./pictures";
import type { Effect } from "./rows";

type Picture = Schemas["Picture"];

const picture = (more: Partial<Picture>): Picture =>
  ({
    shows: "spectrum",
    words: ["3 dB more at 70 Hz", ""],
    before: [],
    after: [],
    taken_db: [],
    hz: [],
    spectrum_before_db: [],
    spectrum_after_db: [],
    response: [],
    transfer: [],
    ...more,
  }) as Picture;

const draw = (p: Picture | undefined, large = false) =>
  renderToStaticMarkup(<EffectPicture picture={p} width={100} height={40} colour="red" large={large} />);

/** The points of the last line that is drawn. */
const points = (svg: string) =>
  [...(svg.match(/<path d="([^"]*)"/g) ?? [])]
    .at(-1)
    ?.match(/[ML]([\d.-]+) ([\d.-]+)/g)
    ?.map((m) => m.slice(1).split(" ").map(Number)) ?? [];

test("a response lies above the middle where it lifts, below where it takes", () => {
  const drawn = points(
    draw(
      picture({
        response: [
          [20, 0],
          [632, 9],
          [20000, -18],
        ],
      }),
    ),
  );
  expect(drawn).toHaveLength(3);
  expect(drawn[0]).toEqual([0, 20]);
  expect(drawn[1]?.[0]).toBeCloseTo(50, 0);
  expect(drawn[1]?.[1]).toBeLessThan(15);
  expect(drawn[2]).toEqual([100, 38]);
});

test("without a response the spectra's difference is drawn", () => {
  const drawn = points(
    draw(picture({ hz: [100, 1000], spectrum_before_db: [-20, -30], spectrum_after_db: [-26, -30] })),
  );
  expect(drawn[0]?.[1]).toBeGreaterThan(20);
  expect(drawn[1]?.[1]).toBe(20);
});

test("a large picture has numbers in Hz, and words for those who do not see it", () => {
  const svg = draw(picture({ response: [[20, 0]] }), true);
  expect(svg).toContain(">1k<");
  expect(svg).toContain(">100<");
  expect(svg).toContain('aria-label="3 dB more at 70 Hz, "');
});

test("what is taken over time is drawn where anything is", () => {
  const still = draw(picture({ shows: "time", before: [1, 0.5], after: [1, 0.5], taken_db: [0, 0] }));
  const taken = draw(picture({ shows: "time", before: [1, 0.5], after: [0.5, 0.5], taken_db: [-9, 0] }));
  expect(still.match(/<path/g)).toHaveLength(2);
  expect(taken.match(/<path/g)).toHaveLength(3);
});

test("what is not measured yet says so", () => {
  expect(draw(undefined)).toContain("not measured yet");
});

test("an effect that is off is said to be, on its card", () => {
  const nothing = () => {};
  const card = (off: boolean) =>
    renderToStaticMarkup(
      <EffectCard
        effect={{ id: "eq1", kind: "eq", off } as unknown as Effect}
        label="Equalizer"
        picture={picture({ words: ["3 dB more", "at 70 Hz"] })}
        colour="red"
        chosen={false}
        mark={false}
        onChoose={nothing}
        onSwitch={nothing}
        onDragStart={nothing}
        onDragEnd={nothing}
        onDragOver={nothing}
      />,
    );
  expect(card(true)).toContain(">off<");
  expect(card(true)).toContain("switches it on");
  expect(card(false)).not.toContain(">off<");
  expect(card(false)).toContain("at 70 Hz");
});
