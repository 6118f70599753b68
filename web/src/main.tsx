import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./app";
import { monitor } from "./live/monitor";
import "./main.css";

document.documentElement.dataset.theme =
  localStorage.getItem("theme") ?? (matchMedia("(prefers-color-scheme: dark)").matches ? "night" : "day");

// A browser that is driven by tests reads real samples where they leave the worklet.
if (navigator.webdriver) Object.assign(globalThis, { jubrakMonitor: monitor });

const client = new QueryClient({ defaultOptions: { queries: { refetchOnWindowFocus: false, retry: 1 } } });
const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <App />
      </QueryClientProvider>
    </StrictMode>,
  );
