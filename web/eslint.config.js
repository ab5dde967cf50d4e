import js from "@eslint/js";
import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["dist", "src/api/schema.gen.ts", "src/pocket/keeper.js"] },
  js.configs.recommended,
  ...ts.configs.strict,
  a11y.flatConfigs.recommended,
  { plugins: { "react-hooks": hooks }, rules: hooks.configs.recommended.rules },
  { rules: { "no-nested-ternary": "error" } },
  // A chart is read out by arrow keys: a slider that looks like a drawing.
  { rules: { "jsx-a11y/no-noninteractive-tabindex": "off" } },
);
