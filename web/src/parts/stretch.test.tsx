import { renderToStaticMarkup } from "react-dom/server";
import { expect, test, vi } from "vitest";
import type { Schemas } from "../api/client";
import { StretchChooser } from "./StretchChooser";

vi.mock("./useWidth", () => ({ useWidth: () => [() => {}, 800] }));

test("the overview of a long file, its proposal and its marks", () => {
  const long = {
    id: "x",
    name: "all night.mp3",
    longest_s: 760,
    from_s: 600,
    to_s: 720,
    survey: {
      duration_s: 3900,
      sample_rate: 44100,
      channels: 2,
      every_s: 0.5,
      peaks: [0.2, 1, 0.5, 0.1],
      damage: "",
    },
  } as Schemas["LongFile"];
  const html = renderToStaticMarkup(<StretchChooser long={long} />);
  expect(html).toContain("Which stretch of all night.mp3?");
  expect(html).toContain("1:05:00");
  expect(html).toContain("12:40");
  expect(html).toContain("from 10:00 to 12:00 is chosen");
  expect(html).toContain('value="10:00"');
  expect(html).toContain(">50:00<");
  expect(html.match(/M[\d.]+ [\d.]+V/g)).toHaveLength(4);
});

test("a damaged file says why, and all that is left of it is proposed", () => {
  const long = {
    id: "x",
    name: "cut.mp3",
    longest_s: 760,
    from_s: 0,
    to_s: 3.5,
    survey: {
      duration_s: 3.5,
      sample_rate: 44100,
      channels: 1,
      every_s: 0.5,
      peaks: [0.2, 1],
      damage: "The MP3 file is damaged after 3.5 seconds.",
    },
  } as Schemas["LongFile"];
  const html = renderToStaticMarkup(<StretchChooser long={long} />);
  expect(html).toContain("damaged after 3.5 seconds. What lies before can be listened to.");
  expect(html).not.toContain("fullest two minutes");
  expect(html).toContain('value="0:04"');
});
