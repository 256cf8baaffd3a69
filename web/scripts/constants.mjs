// Writes what the front end takes from the OpenAPI document besides its types: routes by operation, the tables of
// processes, patterns and shapes, and the defaults of recipes.
import { readFileSync, writeFileSync } from "node:fs";

const document = JSON.parse(readFileSync("openapi.json", "utf8"));
const routes = {};
for (const [path, methods] of Object.entries(document.paths))
  for (const [method, operation] of Object.entries(methods)) routes[operation.operationId] = [method.toUpperCase(), path];

const defaultOf = (schema) => {
  if ("default" in schema) return schema.default;
  if (schema.$ref) return defaultsOf(schema.$ref.split("/").at(-1));
  return undefined;
};
const defaultsOf = (name) =>
  Object.fromEntries(
    Object.entries(document.components.schemas[name].properties ?? {})
      .map(([key, schema]) => [key, defaultOf(schema)])
      .filter(([, value]) => value !== undefined),
  );

const tables = document["x-tables"];
const constant = (name, type, value) => `export const ${name}: ${type} = ${JSON.stringify(value, null, 1)};\n`;
writeFileSync(
  "src/api/constants.ts",
  [
    "// Made from openapi.json by scripts/constants.mjs.",
    'import type { components, operations } from "./schema";',
    "",
    "type Schemas = components[\"schemas\"];",
    "type Method = \"GET\" | \"POST\" | \"PUT\" | \"DELETE\";",
    "",
    constant("ROUTES", "Record<keyof operations, [Method, string]>", routes),
    constant("PROCESSES", 'Schemas["ProcessView"][]', tables.processes),
    constant("PATTERNS", 'Schemas["NamedView"][]', tables.patterns),
    constant("SHAPES", 'Schemas["NamedView"][]', tables.shapes),
    constant("CATALOGUE", "Record<string, string>", tables.catalogue),
    constant("KNOWN_FIELDS", 'Schemas["KnownFieldsView"]', tables.known),
    constant("MARKS_COLOUR", "string", tables.marks_colour),
    constant("UNMENDED", 'Schemas["MendRecipe"]', defaultsOf("MendRecipe")),
    constant("PLAIN_LINES", 'Schemas["LineRecipe"]', defaultsOf("LineRecipe")),
    constant("NO_RIGHTS", 'Schemas["RightsRecipe"]', defaultsOf("RightsRecipe")),
    constant("PLAIN_TONE", 'Schemas["ToneRecipe"]', defaultsOf("ToneRecipe")),
  ].join("\n"),
);
