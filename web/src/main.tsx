import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource/zilla-slab/500.css";
import "@fontsource/zilla-slab/600.css";
import "bootstrap-icons/font/bootstrap-icons.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./App";
import { kept } from "./session/kept";
import "./theme/theme.scss";

document.documentElement.dataset.bsTheme = kept("theme") ?? "light";
createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
