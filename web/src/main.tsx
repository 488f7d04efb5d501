import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource/zilla-slab/500.css";
import "@fontsource/zilla-slab/600.css";
import "bootstrap-icons/font/bootstrap-icons.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./App";
import { kept } from "./kept";
import "./theme/theme.scss";

// As the user chose here, else as the system is.
const dim = matchMedia("(prefers-color-scheme: dark)");
const dress = () => {
  document.documentElement.dataset.bsTheme = kept("theme") ?? (dim.matches ? "dark" : "light");
};
dim.addEventListener("change", dress);
dress();
createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
