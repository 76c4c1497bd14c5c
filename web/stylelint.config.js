/** Colours come from theme.ts, sizes of type from tokens.css, and a screen narrows at two widths. */
export default {
  extends: "stylelint-config-standard",
  rules: {
    "color-no-hex": true,
    "color-named": "never",
    "declaration-property-value-disallowed-list": {
      "font-size": ["/[0-9.](px|em|rem|pt)\\b/"],
      font: ["/[0-9.](px|em|rem|pt)\\b/"],
    },
    "media-feature-name-value-allowed-list": {
      "max-width": ["760px", "1000px"],
    },
    "media-feature-range-notation": "prefix",
    // A code of the API may be a class.
    "selector-class-pattern": "^[a-z][a-z0-9_-]*$",
    // Names of parts are words, grouped by station; the order follows the screen, not the weight.
    "no-descending-specificity": null,
  },
};
