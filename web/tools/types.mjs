/**
 * Makes the page's types from the service's OpenAPI document, blocks of bytes are `Uint8Array`; and what it has to know
 * of each kind of recipe and of channel, and of each number and choice.
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
  "src/wire/facts.gen.ts",
  `/** Made from the core: the kinds of recipes, of channels, of what is rendered to, what each number may be, and what is chosen from. */
export const RECIPES = ${JSON.stringify(api["x-recipes"], null, 2)} as const;
export const FORMATS = ${JSON.stringify(api["x-formats"], null, 2)} as const;
export const CHANNELS = ${JSON.stringify(api["x-channels"], null, 2)} as const;
export const NUMBERS = ${JSON.stringify(api["x-numbers"])} as const;
export const CHOICES = ${JSON.stringify(api["x-choices"])} as const;
`,
);
