import CssBaseline from "@mui/material/CssBaseline";
import { createTheme, ThemeProvider } from "@mui/material/styles";
import type { ReactNode } from "react";

const palette = (
  c: Record<
    "paper" | "sheet" | "ink" | "soft" | "line" | "kelp" | "on" | "brick" | "ochre",
    string
  >,
) => ({
  primary: { main: c.kelp, contrastText: c.on },
  error: { main: c.brick },
  warning: { main: c.ochre },
  text: { primary: c.ink, secondary: c.soft },
  background: { default: c.paper, paper: c.sheet },
  divider: c.line,
});

const theme = createTheme({
  cssVariables: { colorSchemeSelector: '[data-theme="%s"]' },
  colorSchemes: {
    light: {
      palette: palette({
        paper: "#f3efe4",
        sheet: "#faf7ef",
        ink: "#17252f",
        soft: "#5a6670",
        line: "#cfc8b6",
        kelp: "#0d5f4e",
        on: "#faf7ef",
        brick: "#a8321f",
        ochre: "#955700",
      }),
    },
    dark: {
      palette: palette({
        paper: "#10181d",
        sheet: "#162128",
        ink: "#e9e4d6",
        soft: "#98a3a8",
        line: "#33424b",
        kelp: "#58c3a4",
        on: "#10181d",
        brick: "#f08a74",
        ochre: "#e0a24a",
      }),
    },
  },
  shape: { borderRadius: 2 },
  typography: {
    fontFamily: "var(--words)",
    fontSize: 14,
    button: { textTransform: "none", fontWeight: 600, letterSpacing: 0 },
  },
  components: {
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiButton: {
      defaultProps: { disableElevation: true, variant: "outlined" },
      styleOverrides: {
        root: {
          borderColor: "var(--ink)",
          color: "var(--ink)",
          minHeight: 38,
          "&:focus-visible": { outline: "2px solid var(--kelp)", outlineOffset: 2 },
          "&.MuiButton-contained": { background: "var(--kelp)", color: "var(--on-kelp)" },
          "&.Mui-disabled": {
            border: "1px solid var(--line)",
            color: "var(--soft)",
            background: "none",
          },
        },
      },
    },
    MuiTextField: { defaultProps: { size: "small", variant: "outlined", fullWidth: true } },
    MuiOutlinedInput: {
      styleOverrides: {
        root: { background: "var(--sheet)" },
        notchedOutline: { borderColor: "var(--line)" },
      },
    },
    MuiInputLabel: { styleOverrides: { root: { color: "var(--soft)" } } },
    MuiPaper: {
      defaultProps: { elevation: 0 },
      styleOverrides: { root: { backgroundImage: "none" } },
    },
    MuiDialog: {
      styleOverrides: { paper: { border: "1px solid var(--line)", boxShadow: "none" } },
    },
    MuiMenu: { styleOverrides: { paper: { border: "1px solid var(--line)", boxShadow: "none" } } },
    // As every other choice of one among a few looks: apart, and wrapping where there is no room.
    MuiToggleButtonGroup: {
      styleOverrides: {
        root: { flexWrap: "wrap", gap: 6 },
        grouped: {
          "&.MuiToggleButton-root": { margin: 0, border: "1px solid var(--line)", borderRadius: 2 },
          "&.MuiToggleButton-root.Mui-selected": { borderColor: "var(--ink)" },
        },
      },
    },
    MuiToggleButton: {
      styleOverrides: {
        root: {
          minHeight: 34,
          padding: "0 11px",
          background: "var(--sheet)",
          color: "var(--ink)",
          fontSize: 16,
          fontWeight: 400,
          "&.Mui-selected": { background: "var(--ink)", color: "var(--sheet)" },
          "&.Mui-selected:hover": { background: "var(--ink)" },
          "&:focus-visible": { outline: "2px solid var(--kelp)", outlineOffset: 2 },
        },
      },
    },
  },
});

export function Theme({ children }: { children: ReactNode }) {
  return (
    <ThemeProvider theme={theme} defaultMode="system">
      <CssBaseline />
      {children}
    </ThemeProvider>
  );
}
