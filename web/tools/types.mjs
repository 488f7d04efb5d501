/** Makes the page's types from the service's OpenAPI document; blocks of bytes are `Uint8Array`. */
import { readFileSync, writeFileSync } from "node:fs";
import openapiTS, { astToString } from "openapi-typescript";
import ts from "typescript";

const bytes = ts.factory.createTypeReferenceNode(ts.factory.createIdentifier("Uint8Array"));
const ast = await openapiTS(JSON.parse(readFileSync("api.json", "utf8")), {
  defaultNonNullable: false,
  transform: (schema) => (schema.format === "binary" ? bytes : undefined),
});
writeFileSync("src/wire/schema.d.ts", astToString(ast));
