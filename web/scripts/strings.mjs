// Prints every string of the front end that a person can meet, a line each: where it stands, a tab, the text.
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";

import ts from "typescript";

// What is said to a program: class names, keys of storage, paths, parts of the drawing of a screen.
const CODE_ATTRIBUTES = new Set(["className", "id", "key", "href", "to", "type", "d", "viewBox", "fill", "stroke", "role", "name", "data-key"]);
const isSentence = (text) => /^[“"({]?[A-Z]/.test(text.trim()) || (/ /.test(text.trim()) && /[a-z]{2}/.test(text));
const isCode = (text) => /^(\/|\.|#|var\(|M\d|[a-z-]+:|@|[A-Z_]+$)/.test(text.trim()) || /^[a-z0-9[\]():%.,_/ -]*-[a-z0-9[\]():%.,_/ -]*$/.test(text.trim());

function* files(folder) {
  for (const each of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, each.name);
    if (each.isDirectory()) yield* files(path);
    else if (/\.tsx?$/.test(each.name) && !/\.test\.|schema\.ts|constants\.ts/.test(each.name)) yield path;
  }
}

const inside = (node) => {
  const attribute = ts.findAncestor(node, (each) => ts.isJsxAttribute(each));
  if (attribute && CODE_ATTRIBUTES.has(attribute.name.getText())) return false;
  const parent = node.parent;
  if (ts.isImportDeclaration(parent) || ts.isLiteralTypeNode(parent) || ts.isElementAccessExpression(parent)) return false;
  if (ts.isPropertyAssignment(parent) && parent.name === node) return false;
  if (ts.isBinaryExpression(parent) && /^[=!]==?$/.test(parent.operatorToken.getText())) return false;
  if (ts.isCallExpression(parent) && /^(call|useQuery|addEventListener|removeEventListener|includes|querySelector|getItem|setItem|removeItem|matches|closest|key)$/.test(parent.expression.getText().split(".").at(-1))) return false;
  return true;
};

for (const path of files("src")) {
  const source = ts.createSourceFile(path, readFileSync(path, "utf8"), ts.ScriptTarget.Latest, true, ts.ScriptKind.TSX);
  const visit = (node) => {
    let text;
    if (ts.isJsxText(node)) text = node.text;
    else if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) text = inside(node) ? node.text : undefined;
    else if (ts.isTemplateExpression(node) && inside(node))
      text = node.head.text + node.templateSpans.map((span) => `{${/^[\w.]+$/.test(span.expression.getText()) ? span.expression.getText() : "…"}}${span.literal.text}`).join("");
    const told = text?.replace(/\s+/g, " ").trim();
    const line = source.getLineAndCharacterOfPosition(node.getStart()).line + 1;
    const wanted = ts.isJsxText(node) ? told && /[A-Za-z]{2}/.test(told) : told && isSentence(told) && !isCode(told);
    if (wanted) console.log(`web/${path}:${line}\t${told}`);
    ts.forEachChild(node, visit);
  };
  visit(source);
}
