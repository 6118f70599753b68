// Lists the tests that passed only at a second try, so that none hides there.
import type { FullResult, Reporter, Suite } from "@playwright/test/reporter";

export default class Retried implements Reporter {
  private suite: Suite | null = null;

  onBegin(_: unknown, suite: Suite) {
    this.suite = suite;
  }

  onEnd(_: FullResult) {
    const flaky = this.suite?.allTests().filter((t) => t.outcome() === "flaky") ?? [];
    for (const t of flaky) {
      const first = t.results[0]?.error?.message?.split("\n")[0] ?? "no reason given";
      console.log(`RETRIED: ${t.title}: ${first}`);
    }
    console.log(flaky.length === 0 ? "no test was retried" : `${flaky.length} passed only at a second try`);
  }
}
