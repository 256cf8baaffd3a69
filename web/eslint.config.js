import boundaries from "eslint-plugin-boundaries";
import hooks from "eslint-plugin-react-hooks";
import { defineConfig } from "eslint/config";
import tseslint from "typescript-eslint";

// The floors of the house, from the top down; each may use those below it. The bench is given what it shows, so it
// does not use the job's.
const FLOORS = ["app", "stations", "bench", "job", "ui", "api"];

export default defineConfig(
  { ignores: ["src/api/schema.ts", "src/api/constants.ts"] },
  ...tseslint.configs.recommended,
  {
    files: ["src/**/*.{ts,tsx}"],
    plugins: { boundaries, "react-hooks": hooks },
    settings: {
      "boundaries/elements": FLOORS.map((floor) => ({ type: floor, pattern: `src/${floor}` })),
      "import/resolver": { typescript: { project: "tsconfig.json" } },
    },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "@typescript-eslint/no-non-null-assertion": "off",
      "@typescript-eslint/no-unused-vars": "error",
      "boundaries/dependencies": [
        "error",
        {
          default: "disallow",
          policies: FLOORS.map((floor, n) => ({
            from: { element: { type: floor } },
            allow: { to: { element: { type: FLOORS.slice(n).filter((below) => floor !== "bench" || below !== "job") } } },
          })),
        },
      ],
    },
  },
);
