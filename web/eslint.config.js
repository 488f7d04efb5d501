import hooks from "eslint-plugin-react-hooks";
import { importX } from "eslint-plugin-import-x";
import { createTypeScriptImportResolver } from "eslint-import-resolver-typescript";
import a11y from "eslint-plugin-jsx-a11y";
import tseslint from "typescript-eslint";

/** The layers of the page, the lowest first: what stands in one uses only what stands below it, and itself. */
const LAYERS = [
  ["wire"],
  ["ui"],
  ["session"],
  ["stage"],
  ["sheet", "strip", "morph"],
  ["people"],
  ["parts"],
  ["ribbon"],
  ["benches"],
];
const BENCHES = ["pieces", "rig", "motion", "voice", "shots", "render"];
const within = (names) => names.flatMap((name) => [`**/${name}`, `**/${name}/**`]);

export default tseslint.config(
  { ignores: ["src/wire/schema.d.ts", "src/wire/facts.gen.ts", "dist"] },
  ...tseslint.configs.recommended,
  a11y.flatConfigs.recommended,
  {
    plugins: { "react-hooks": hooks, "import-x": importX },
    settings: {
      ...importX.flatConfigs.typescript.settings,
      "import-x/resolver-next": [createTypeScriptImportResolver()],
    },
    rules: {
      // What two files need of one another stands in a third.
      "import-x/no-cycle": ["error", { ignoreExternal: true }],
      // The stage and the overlay of drawings are worked with the hand and the keyboard: applications.
      "jsx-a11y/no-noninteractive-tabindex": ["error", { roles: ["application"] }],
      "jsx-a11y/no-noninteractive-element-interactions": [
        "error",
        { handlers: ["onClick", "onMouseDown", "onMouseUp"] },
      ],
      // A dialog that asks for one thing opens with the hand on it.
      "jsx-a11y/no-autofocus": ["error", { ignoreNonDOM: true }],
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_$" }],
      // What a browser has only on this machine's own address and over TLS (W3C Secure Contexts).
      "no-restricted-properties": [
        "error",
        ...[
          ["crypto", "randomUUID"],
          ["crypto", "subtle"],
          ["navigator", "clipboard"],
          ["navigator", "storage"],
          ["navigator", "serviceWorker"],
          ["navigator", "locks"],
        ].map(([object, property]) => ({ object, property, message: "Not there over plain HTTP on another name." })),
      ],
      // A command says only what changes: one built from what is shown takes back what is still on its way.
      "no-restricted-syntax": [
        "error",
        {
          selector:
            "ObjectExpression:has(> Property[key.name='do']) > Property ObjectExpression > SpreadElement:first-child",
          message: "Send only what changes, with the id of what it is about.",
        },
        // What a number may be, the core says: by the name of its field (ui/numbers.ts).
        ...[
          "JSXAttribute[name.name=/^(min|max)$/] > JSXExpressionContainer > Literal",
          "JSXAttribute[name.name=/^(min|max)$/] > JSXExpressionContainer > UnaryExpression",
          "Property[key.name=/^(min|max)$/] > Literal",
          "Property[key.name=/^(min|max)$/] > UnaryExpression",
        ].map((selector) => ({ selector, message: "Name the field in `of`: its ends come with it." })),
        {
          selector: "Literal[value=/^#([0-9a-fA-F]{3,4}){1,2}$/]",
          message: "Colours of the page are in theme/_tokens.scss, what is painted with in ui/paints.ts.",
        },
        {
          selector:
            "JSXAttribute[name.name='style'] > JSXExpressionContainer > ObjectExpression > Property > Literal.value",
          message: "A look that never changes stands in the theme.",
        },
      ],
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "@typescript-eslint/no-non-null-assertion": "off",
    },
  },
  ...LAYERS.flatMap((own, at) =>
    own.map((name) => ({
      files: [`src/${name}/**`],
      rules: {
        "no-restricted-imports": [
          "error",
          {
            patterns: [
              { group: ["**/App", "**/Home", ...within(LAYERS.slice(at + 1).flat())], message: "That stands above." },
            ],
          },
        ],
      },
    })),
  ),
  ...BENCHES.map((bench) => ({
    files: [`src/benches/${bench}/**`],
    rules: {
      "no-restricted-imports": [
        "error",
        {
          patterns: [
            {
              group: BENCHES.filter((b) => b !== bench).map((b) => `../${b}/**`),
              message: "What two benches use stands in parts.",
            },
          ],
        },
      ],
    },
  })),
  { files: ["**/*.test.ts", "src/ui/paints.ts"], rules: { "no-restricted-syntax": "off" } },
);
