import type { ThemeConfig } from "antd";

/** Every colour of the page, once; the style sheets know them as `--iron`, `--rust-light` and so on. */
export const colours = {
  iron: "#2e3134",
  iron2: "#474b4f",
  iron3: "#62676c",
  iron4: "#8b8f93",
  iron5: "#b3b7ba",
  iron6: "#d8dadb",
  paper: "#f3efe6",
  paper2: "#ebe6d9",
  sheet: "#fffdf8",
  rule: "#d9d2c3",
  rule2: "#b8b1a1",
  earth: "#6b6657",
  rust: "#a8452c",
  rustPale: "#fbeee9",
  rustLight: "#ffb49c",
  ochre: "#8a5f0a",
  ochrePale: "#f6efe1",
  ochreLight: "#d7b46a",
  white: "#ffffff",
  black: "#000000",
  sun: "#ffd36b",
  sky: "#8fd0ff",
  green: "#4d6b3a",
  greenPale: "#e7ecdf",
} as const;

/** One a treatment, the control first: told apart by colour-blind eyes and in print. */
export const treatmentColours = [
  colours.iron,
  "#0072b2",
  "#00805e",
  "#8a4f9e",
  "#a0522d",
  "#5a5fa8",
  "#7a6a00",
  "#b0375f",
] as const;

/** Lines of loggers, which belong to no treatment. */
export const loggerColours = [
  colours.iron,
  "#7a7264",
  "#55595d",
  colours.ochre,
  colours.iron3,
] as const;

/** What is painted in the drawings beside a grade. */
export const pigments = {
  leaf: "#5f7f4f",
  yellowLeaf: "#e5cf5a",
  redLeaf: "#7c1f33",
  soil: "#a59a85",
  stem: "#7a6a52",
  seed: "#f2ead2",
  root: "#8d7b5e",
  rootWhite: "#f7f2e2",
  rootBrown: "#6b4a2a",
  rootAlga: "#9fae8fb0",
  water: "#e7edf0",
  mud: "#d4cfb8",
  film: "#b4b09a",
} as const;

/** Elements in a column of the recipe bench. */
export const elementColours = {
  N: "#5d7387",
  P: "#a8795a",
  K: "#7d6f8c",
  Ca: "#9a9283",
  Mg: "#6f8a86",
  S: "#b39a4d",
} as const;

/** Makes the colours known to the style sheets. */
export function setColours() {
  for (const [name, value] of Object.entries(colours)) {
    const dashed = name.replace(/[A-Z]/g, (big) => `-${big.toLowerCase()}`);
    document.documentElement.style.setProperty(`--${dashed}`, value);
  }
}

/** The one place where Ant Design is told how to look. */
export const theme: ThemeConfig = {
  token: {
    colorPrimary: colours.iron,
    colorInfo: colours.iron,
    colorLink: colours.rust,
    colorError: colours.rust,
    colorWarning: colours.ochre,
    colorText: colours.iron,
    colorTextPlaceholder: colours.iron3,
    colorTextDisabled: colours.iron3,
    colorBgContainer: colours.sheet,
    colorBgElevated: colours.sheet,
    colorBorder: colours.rule2,
    controlItemBgActive: colours.paper2,
    controlItemBgActiveHover: colours.rule,
    controlItemBgHover: colours.paper,
    borderRadius: 3,
    fontFamily: '"Atkinson Hyperlegible Next Variable", sans-serif',
    fontSize: 15,
    controlHeight: 36,
    motion: false,
  },
  components: {
    Button: {
      primaryShadow: "none",
      defaultShadow: "none",
      fontWeight: 600,
      defaultBorderColor: colours.iron,
    },
    Input: { activeShadow: `0 0 0 2px ${colours.iron}33` },
    InputNumber: { activeShadow: `0 0 0 2px ${colours.iron}33` },
    Select: { optionSelectedBg: colours.paper2, optionActiveBg: colours.paper },
  },
};
