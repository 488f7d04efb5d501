/**
 * Makes the page's types from the service's OpenAPI document, blocks of bytes are `Uint8Array`; and what it has to know
 * of each kind of recipe.
 */
import { readFileSync, writeFileSync } from "node:fs";
import openapiTS, { astToString } from "openapi-typescript";
import ts from "typescript";

const bytes = ts.factory.createTypeReferenceNode(ts.factory.createIdentifier("Uint8Array"));
const api = JSON.parse(readFileSync("api.json", "utf8"));
const ast = await openapiTS(api, {
  defaultNonNullable: false,
  transform: (schema) => (schema.format === "binary" ? bytes : undefined),
});
writeFileSync("src/wire/schema.d.ts", astToString(ast));
writeFileSync(
  "src/wire/recipes.gen.ts",
  `/** The kinds of recipes: made from the core's. */\nexport const RECIPES = ${JSON.stringify(api["x-recipes"], null, 2)} as const;\n`,
);
