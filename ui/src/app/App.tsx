import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, Suspense } from "react";
import { BrowserRouter, Route, Routes } from "react-router";
import { Hatches } from "../parts/hatches";
import { Problem } from "./api";
import { KeysProvider } from "./keys";
import { Shell } from "./Shell";
import { system } from "./theme";

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 2_000,
      // A no from the server is an answer; only a lost connection is tried again.
      retry: (count, error) => !(error instanceof Problem && error.status > 0) && count < 5,
    },
  },
});

const Today = lazy(() => import("../stations/today/Today"));
const Brief = lazy(() => import("../stations/brief/Brief"));
const NewPiece = lazy(() => import("../stations/brief/NewPiece"));
const Form = lazy(() => import("../stations/form/Form"));
const Sculpt = lazy(() => import("../stations/sculpt/Sculpt"));
const Mould = lazy(() => import("../stations/mould/Mould"));
const Mix = lazy(() => import("../stations/mix/Mix"));
const Bench = lazy(() => import("../stations/mix/Bench"));
const Recipes = lazy(() => import("../stations/mix/Recipes"));
const RecipePage = lazy(() => import("../stations/mix/RecipePage"));
const Hands = lazy(() => import("../stations/mix/Hands"));
const Outlook = lazy(() => import("../stations/stores/Outlook"));
const Deliveries = lazy(() => import("../stations/stores/Deliveries"));
const Products = lazy(() => import("../stations/stores/Products"));
const Count = lazy(() => import("../stations/stores/Count"));
const Recalls = lazy(() => import("../stations/stores/Recalls"));
const Build = lazy(() => import("../stations/build/Build"));
const Colour = lazy(() => import("../stations/colour/Colour"));
const Finish = lazy(() => import("../stations/finish/Finish"));
const Check = lazy(() => import("../stations/check/Check"));
const HandOver = lazy(() => import("../stations/handover/HandOver"));
const Plan = lazy(() => import("../stations/plan/Plan"));
const Stores = lazy(() => import("../stations/stores/Stores"));
const Record = lazy(() => import("../record/Record"));
const Rules = lazy(() => import("../rules/Rules"));
const PiecePage = lazy(() => import("../piece/PiecePage"));

export function App() {
  return (
    <ChakraProvider value={system}>
      <QueryClientProvider client={queries}>
        <Hatches />
        <BrowserRouter>
          <KeysProvider>
            <Suspense fallback={null}>
              <Routes>
                <Route element={<Shell />}>
                  <Route index element={<Today />} />
                  <Route path="brief" element={<Brief />} />
                  <Route path="brief/new" element={<NewPiece />} />
                  <Route path="brief/:code" element={<Brief />} />
                  <Route path="form/:code?" element={<Form />} />
                  <Route path="sculpt/:code?" element={<Sculpt />} />
                  <Route path="mould/:code?" element={<Mould />} />
                  <Route path="mix" element={<Mix />} />
                  <Route path="mix/:code" element={<Bench />} />
                  <Route path="hands" element={<Hands />} />
                  <Route path="stock" element={<Outlook />} />
                  <Route path="deliveries" element={<Deliveries />} />
                  <Route path="products" element={<Products />} />
                  <Route path="count" element={<Count />} />
                  <Route path="recalls" element={<Recalls />} />
                  <Route path="recalls/:code" element={<Recalls />} />
                  <Route path="recipes" element={<Recipes />} />
                  <Route path="recipes/:slug" element={<RecipePage />} />
                  <Route path="build" element={<Build />} />
                  <Route path="colour/:code?" element={<Colour />} />
                  <Route path="finish/:code?" element={<Finish />} />
                  <Route path="check/:code?" element={<Check />} />
                  <Route path="handover/:code?" element={<HandOver />} />
                  <Route path="plan" element={<Plan />} />
                  <Route path="stores/:code?" element={<Stores />} />
                  <Route path="record" element={<Record />} />
                  <Route path="rules" element={<Rules />} />
                  <Route path="piece/:code" element={<PiecePage />} />
                  <Route path="*" element={<Today />} />
                </Route>
              </Routes>
            </Suspense>
          </KeysProvider>
        </BrowserRouter>
      </QueryClientProvider>
    </ChakraProvider>
  );
}
