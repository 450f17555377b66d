import { createTypeScriptImportResolver } from "eslint-import-resolver-typescript";
import importX from "eslint-plugin-import-x";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

/** Colours stand in the theme (`theme.css`, `scene/ramp.ts`) and nowhere else. */
const COLOUR_LITERALS = [
  {
    selector: "Literal[value=/#[0-9a-fA-F]{6}\\b/]",
    message: "Take the colour from the theme (ui/colours.ts).",
  },
  { selector: "TemplateElement[value.raw=/#[0-9a-fA-F]{6}\\b/]", message: "Take the colour from the theme (ui/colours.ts)." },
];

/** `make quick` leaves out the rules that need types of their own; `make check` and `make test` have them. */
const KNOWS_TYPES = !process.env.QUICK;

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.d.ts", "*.js", "*.ts"] },
  ...(KNOWS_TYPES ? tseslint.configs.recommendedTypeChecked : tseslint.configs.recommended),
  {
    languageOptions: { parserOptions: { projectService: KNOWS_TYPES, tsconfigRootDir: import.meta.dirname } },
    plugins: { "import-x": importX, "react-hooks": hooks },
    settings: { "import-x/resolver-next": [createTypeScriptImportResolver()] },
    rules: {
      "@typescript-eslint/no-explicit-any": "error",
      "@typescript-eslint/no-unused-vars": ["error", { varsIgnorePattern: "^_", argsIgnorePattern: "^_" }],
      "import-x/no-cycle": "error",
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
    },
  },
  {
    // A promise that nobody waits for hides its refusal: `tell` it, or await it.
    rules: KNOWS_TYPES ? {
      "@typescript-eslint/no-floating-promises": ["error", { ignoreVoid: false }],
      "@typescript-eslint/no-misused-promises": "error",
    } : {},
  },
  { files: ["src/features/**/*.{ts,tsx}", "src/ui/**/*.{ts,tsx}"], ignores: ["src/ui/colours.ts", "**/*.test.*"], rules: { "no-restricted-syntax": ["error", ...COLOUR_LITERALS] } },
);
