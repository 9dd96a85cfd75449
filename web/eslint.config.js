import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist", "src/api/generated"] },
  ...tseslint.configs.strict,
  ...tseslint.configs.stylistic,
  {
    plugins: { "react-hooks": hooks },
    rules: {
      ...hooks.configs.recommended.rules,
      "@typescript-eslint/no-confusing-void-expression": "off",
      // Leaving a field out by naming it is the plain way to leave it out.
      "@typescript-eslint/no-unused-vars": ["error", { ignoreRestSiblings: true }],
      "max-lines": ["error", { max: 220, skipBlankLines: true }],
    },
  },
);
