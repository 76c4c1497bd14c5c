import "antd/dist/reset.css";
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "@fontsource-variable/source-serif-4/wght.css";
import "./styles/tokens.css";
import "./styles/base.css";
import {
  MutationCache,
  QueryClient,
  QueryClientProvider,
} from "@tanstack/react-query";
import ConfigProvider from "antd/es/config-provider";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { onArrived, onTaken, resume } from "./api/outbox";
import { App } from "./app";
import { noteSaved } from "./frame/saved";
import { refreshTrial, trialQuery } from "./queries/trial";
import { setColours, theme } from "./theme";

/** Menus stand inside the page's main part: outside of it a screen reader would not come across them. */
const menuPlace = (from?: HTMLElement) =>
  from?.closest("main") ?? document.body;

const queries = new QueryClient({
  mutationCache: new MutationCache({
    // What is kept on this device is not saved yet.
    onSuccess: (data, _sent, _context, mutation) =>
      mutation.meta?.["writesNothing"] !== true &&
      data !== "kept" &&
      noteSaved(),
  }),
  defaultOptions: {
    queries: { retry: 1, refetchOnWindowFocus: true, staleTime: 2000 },
    // Without a network a write is kept or told to have failed at once; it does not hang unseen.
    mutations: { networkMode: "always" },
  },
});

onArrived((trial) => {
  noteSaved();
  void refreshTrial(queries, trial);
});
onTaken(
  (trial) =>
    queries.getQueryData(trialQuery(trial).queryKey)?.commitment ?? undefined,
);
void resume();
setColours();

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <ConfigProvider
          theme={theme}
          wave={{ disabled: true }}
          getPopupContainer={menuPlace}
        >
          <BrowserRouter>
            <App />
          </BrowserRouter>
        </ConfigProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
