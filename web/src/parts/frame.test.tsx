// @vitest-environment jsdom
import { act, screen } from "@testing-library/react";
import { beforeEach, expect, test, vi } from "vitest";
import { useProject } from "../state/project";
import { projectOf, serve, show } from "../test/harness";
import { Frame } from "./Frame";

beforeEach(() => {
  serve({ "GET /api/jobs": { jobs: [] } });
  vi.stubGlobal("matchMedia", () => ({ matches: false, addEventListener: () => {} }));
});

const frame = () =>
  show(
    <Frame project="p" view="groove">
      <main>rows</main>
    </Frame>,
    projectOf(),
  );

test("the frame shows what the project as a whole has, and follows it", async () => {
  frame();
  expect((screen.getByRole("textbox", { name: "Key" }) as HTMLInputElement).value).toBe(
    projectOf().document.key,
  );
  act(() =>
    useProject.setState({ state: projectOf({ key: "G minor" }, { can_undo: true, can_redo: false }) }),
  );
  expect((screen.getByRole("textbox", { name: "Key" }) as HTMLInputElement).value).toBe("G minor");
  expect((screen.getByRole("button", { name: "Undo" }) as HTMLButtonElement).disabled).toBe(false);
  expect((screen.getByRole("button", { name: "Redo" }) as HTMLButtonElement).disabled).toBe(true);
});

test("what is saved is reported", () => {
  frame();
  expect(screen.getByRole("status").textContent).toBe("All changes saved");
  act(() => useProject.setState({ saving: true }));
  expect(screen.getByRole("status").textContent).toBe("saving…");
  act(() => useProject.setState({ saving: false }));
});

test("each view has its fact, and the open one is marked", () => {
  frame();
  const open = screen.getByRole("button", { name: /^Groove/, current: "page" });
  expect(open.textContent).toContain("swing");
  const voices = projectOf().document.kit.voices.length;
  expect(screen.getByRole("button", { name: /^Sounds/ }).textContent).toBe(`Sounds${voices} voices`);
  act(() => {
    const { groove } = projectOf().document;
    useProject.setState({
      state: projectOf({ groove: { ...groove, feel: { ...groove.feel, swing_percent: 61.5 } } }),
    });
  });
  expect(open.textContent).toBe("Grooveswing 61.5 %");
});
