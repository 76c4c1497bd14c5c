import ts from "typescript";
import { expect, test } from "vitest";
import still from "./house.over.json";

/** Lines of a function beyond which it does more than one thing. */
const MOST_LINES = 60;

const sources = import.meta.glob<string>(
  ["./**/*.{ts,tsx}", "!./**/*.test.ts", "!./api/schema.d.ts"],
  { query: "?raw", import: "default", eager: true },
);

function nameOf(node: ts.FunctionDeclaration | ts.ArrowFunction): string {
  if (ts.isFunctionDeclaration(node)) {
    return node.name?.text ?? "default";
  }
  return ts.isVariableDeclaration(node.parent)
    ? node.parent.name.getText()
    : "arrow";
}

/** Functions beyond the limit, as `path name`, with their lines. */
function longFunctions(path: string, text: string): [string, number][] {
  const kind = path.endsWith("x") ? ts.ScriptKind.TSX : ts.ScriptKind.TS;
  const source = ts.createSourceFile(
    path,
    text,
    ts.ScriptTarget.Latest,
    true,
    kind,
  );
  const line = (at: number) => source.getLineAndCharacterOfPosition(at).line;
  const found: [string, number][] = [];
  const visit = (node: ts.Node): void => {
    if (ts.isFunctionDeclaration(node) || ts.isArrowFunction(node)) {
      const lines = line(node.end) - line(node.getStart()) + 1;
      if (lines > MOST_LINES) {
        found.push([`${path} ${nameOf(node)}`, lines]);
      }
    }
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

test("no function of the page is longer than can be read at a glance, but for those that still are", () => {
  const all = Object.entries(sources);
  expect(all.length).toBeGreaterThan(60);
  // The list says what is left to be parted. It gets shorter, and no line of it longer.
  expect(
    Object.fromEntries(
      all.flatMap(([path, text]) => longFunctions(path, text)),
    ),
  ).toEqual(still);
  expect(
    longFunctions("long.ts", `function long() {\n${"  go();\n".repeat(70)}}`),
  ).toEqual([["long.ts long", 72]]);
  // Every source is parsed: on a busy machine longer than a test usually takes.
}, 60_000);
