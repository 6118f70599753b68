// @vitest-environment jsdom
import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import { NumberField } from "./NumberField";

test("what is typed replaces an answer that came since the field was entered", async () => {
  const user = userEvent.setup();
  const change = vi.fn();
  const field = (value: number) => (
    <NumberField label="Length" value={value} unit="16ths" min={0} max={64} digits={2} onChange={change} />
  );
  const { rerender } = render(field(0));
  await user.tab();
  const box = screen.getByRole<HTMLInputElement>("spinbutton", { name: "Length" });
  expect(box).toBe(document.activeElement);
  rerender(field(2));
  expect(box.value).toBe("2.00");
  await user.keyboard("3{Enter}");
  expect(change).toHaveBeenLastCalledWith(3, "");
  rerender(field(3));
  await user.keyboard("1{ArrowLeft}4{Enter}"); // what is being typed stays as it is
  expect(change).toHaveBeenLastCalledWith(41, "");
});
