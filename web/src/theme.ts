import type { ThemeConfig } from "antd";

export const colours = {
  iron: "#2e3134",
  iron2: "#474b4f",
  iron3: "#62676c",
  paper: "#f3efe6",
  sheet: "#fffdf8",
  rule: "#d9d2c3",
  rust: "#a8452c",
  ochre: "#8a5f0a",
} as const;

/** The one place where Ant Design is told how to look. */
export const theme: ThemeConfig = {
  token: {
    colorPrimary: colours.iron,
    colorInfo: colours.iron,
    colorLink: colours.rust,
    colorError: colours.rust,
    colorWarning: colours.ochre,
    colorText: colours.iron,
    colorTextPlaceholder: "#5f646a",
    colorTextDisabled: "#55595d",
    colorBgContainer: colours.sheet,
    colorBgElevated: colours.sheet,
    colorBorder: "#b8b1a1",
    controlItemBgActive: "#ece6da",
    controlItemBgActiveHover: "#e3dbcb",
    controlItemBgHover: "#f0ebe0",
    borderRadius: 3,
    fontFamily: '"Atkinson Hyperlegible Next Variable", sans-serif',
    fontSize: 15,
    controlHeight: 36,
    motion: false,
  },
  components: {
    Button: { primaryShadow: "none", defaultShadow: "none", fontWeight: 600, defaultBorderColor: colours.iron },
    Input: { activeShadow: "0 0 0 2px #2e313433" },
    InputNumber: { activeShadow: "0 0 0 2px #2e313433" },
    Select: { optionSelectedBg: "#ece6da", optionActiveBg: "#f0ebe0" },
  },
};
