import ts from "typescript";
import { expect, test } from "vitest";

/** Lines of a function beyond which it does more than one thing. */
const MOST_LINES = 60;

const sources = import.meta.glob<string>(["./**/*.{ts,tsx}", "!./**/*.test.ts", "!./api/schema.d.ts"], { query: "?raw", import: "default", eager: true });

function longFunctions(path: string, text: string): string[] {
  const kind = path.endsWith("x") ? ts.ScriptKind.TSX : ts.ScriptKind.TS;
  const source = ts.createSourceFile(path, text, ts.ScriptTarget.Latest, true, kind);
  const line = (at: number) => source.getLineAndCharacterOfPosition(at).line;
  const found: string[] = [];
  const visit = (node: ts.Node): void => {
    if (ts.isFunctionDeclaration(node) || ts.isArrowFunction(node)) {
      const lines = line(node.end) - line(node.getStart()) + 1;
      if (lines > MOST_LINES) {
        found.push(`${path}:${line(node.getStart()) + 1} ${lines} lines`);
      }
    }
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

test("no function of the page is longer than can be read at a glance", () => {
  const all = Object.entries(sources);
  expect(all.length).toBeGreaterThan(60);
  expect(all.flatMap(([path, text]) => longFunctions(path, text))).toEqual([]);
  expect(longFunctions("long.ts", `function long() {\n${"  go();\n".repeat(70)}}`)).toEqual(["long.ts:1 72 lines"]);
  // Every source is parsed: on a busy machine longer than a test usually takes.
}, 60_000);
