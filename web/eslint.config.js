import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

// Imports run one way: api, keyboard <- design <- sheet, weave <- editor <- views.
const below = (folder, forbidden) => ({
  files: [`src/${folder}/**`],
  rules: {
    "no-restricted-imports": ["error", { patterns: forbidden.map((name) => `**/${name}/**`) }],
  },
});

export default ts.config(
  { ignores: ["src/api/generated.d.ts"] },
  ...ts.configs.strictTypeChecked,
  { languageOptions: { parserOptions: { projectService: true } } },
  a11y.flatConfigs.strict,
  { plugins: { "react-hooks": hooks }, rules: hooks.configs.recommended.rules },
  { rules: { "jsx-a11y/no-autofocus": "off" } }, // a form that somebody has opened has the cursor in it
  {
    rules: {
      "@typescript-eslint/restrict-template-expressions": ["error", { allowNumber: true }],
      "@typescript-eslint/no-confusing-void-expression": "off",
    },
  },
  below("api", ["design", "sheet", "weave", "editor", "views"]),
  below("keyboard", ["api", "design", "sheet", "weave", "editor", "views"]),
  below("design", ["sheet", "weave", "editor", "views"]),
  below("sheet", ["weave", "editor", "views"]),
  below("weave", ["editor", "views"]),
  below("editor", ["weave", "views"]),
  { files: ["*.js"], ...ts.configs.disableTypeChecked },
);
