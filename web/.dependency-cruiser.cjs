module.exports = {
  forbidden: [
    { name: "no-circles", severity: "error", from: {}, to: { circular: true } },
    {
      name: "features-do-not-know-each-other",
      severity: "error",
      from: { path: "^src/features/([^/]+)/" },
      to: { path: "^src/features/", pathNot: "^src/features/$1/" },
    },
    {
      name: "a-feature-has-one-door",
      severity: "error",
      from: { path: "^src/(app|workbench)/" },
      to: { path: "^src/features/[^/]+/", pathNot: "^src/features/[^/]+/index\\.ts$" },
    },
    {
      name: "the-workbench-has-one-door",
      severity: "error",
      from: { path: "^src/app/" },
      to: { path: "^src/workbench/", pathNot: "^src/workbench/index\\.ts$" },
    },
    // app → workbench → features → model | shared → api: nothing imports from a layer above it.
    {
      name: "nothing-knows-the-app",
      severity: "error",
      from: { path: "^src/(workbench|features|model|shared|api)/" },
      to: { path: "^src/app/" },
    },
    {
      name: "features-know-no-workbench",
      severity: "error",
      from: { path: "^src/(features|model|shared|api)/" },
      to: { path: "^src/workbench/" },
    },
    {
      name: "model-shared-and-api-know-no-feature",
      severity: "error",
      from: { path: "^src/(model|shared|api)/" },
      to: { path: "^src/features/" },
    },
    {
      name: "shared-and-api-know-no-model",
      severity: "error",
      from: { path: "^src/(shared|api)/" },
      to: { path: "^src/model/" },
    },
    { name: "shared-knows-no-api", severity: "error", from: { path: "^src/shared/" }, to: { path: "^src/api/" } },
  ],
  options: { tsConfig: { fileName: "tsconfig.json" }, doNotFollow: { path: "node_modules" } },
};
