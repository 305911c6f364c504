import { createBrowserRouter, Navigate } from "react-router";
import { EmptyMat } from "../bench/EmptyMat";
import { NewJob } from "../bench/NewJob";
import { HandOverPage } from "../job/HandOverPage";
import { JobMat } from "../job/JobMat";
import { ProvePage } from "../job/ProvePage";
import { TakeInPage } from "../job/TakeInPage";
import { WorkPage } from "../job/WorkPage";
import { FailedScreen, NotHere } from "./FailedScreen";
import { Loading } from "./parts";
import { Shell } from "./Shell";

export const router = createBrowserRouter([
  { path: "/pair", lazy: () => import("../shop/PairPage"), HydrateFallback: () => null },
  {
    path: "/",
    element: <Shell />,
    errorElement: <FailedScreen />,
    HydrateFallback: () => <Loading what="the bench" />,
    children: [
      {
        errorElement: <FailedScreen />,
        children: [
          { index: true, element: <EmptyMat /> },
          { path: "new", element: <NewJob /> },
          {
            path: "jobs/:jobId",
            element: <JobMat />,
            children: [
              {
                errorElement: <FailedScreen />,
                children: [
                  { index: true, element: <Navigate to="prove" replace /> },
                  { path: "take-in", element: <TakeInPage /> },
                  { path: "prove", element: <ProvePage /> },
                  { path: "decide", lazy: () => import("../decide/DecidePage") },
                  { path: "work", element: <WorkPage /> },
                  { path: "open", lazy: () => import("../work/OpenPage") },
                  { path: "shut", lazy: () => import("../work/ShutPage") },
                  { path: "calibration", lazy: () => import("../calibration/CalibrationPage") },
                  { path: "centring", lazy: () => import("../centring/CentringPage") },
                  { path: "hand-over", element: <HandOverPage /> },
                  { path: "check", lazy: () => import("../takein/CheckPage") },
                  { path: "label", lazy: () => import("../takein/LabelPage") },
                  { path: "verify", lazy: () => import("../compare/VerifyPage") },
                  { path: "sticks", lazy: () => import("../compare/SticksPage") },
                  { path: "file", lazy: () => import("../capture/FilePage") },
                  { path: "takes/:takeId", lazy: () => import("../readings/ReadingsPage") },
                  { path: "takes/:takeId/live", lazy: () => import("../capture/LivePage") },
                ],
              },
            ],
          },
          { path: "find", lazy: () => import("../bench/FindPage") },
          { path: "controllers/:controllerId", lazy: () => import("../controller/ControllerPage") },
          { path: "calculators", lazy: () => import("../calculators/CalculatorsPage") },
          { path: "parts", lazy: () => import("../parts/PartsPage") },
          { path: "parts/:partId", lazy: () => import("../parts/PartPage") },
          { path: "inspections/:inspectionId", lazy: () => import("../parts/InspectionPage") },
          { path: "orders", lazy: () => import("../parts/OrdersPage") },
          { path: "decisions", lazy: () => import("../decide/TrackRecordPage") },
          { path: "models", lazy: () => import("../shop/ModelsPage") },
          { path: "models/:modelId", lazy: () => import("../shop/ModelPage") },
          { path: "models/:modelId/sheet", lazy: () => import("../work/TeardownPage") },
          { path: "routines", lazy: () => import("../shop/RoutinesPage") },
          { path: "devices", lazy: () => import("../shop/DevicesPage") },
          { path: "bench-checks", lazy: () => import("../shop/StudiesPage") },
          { path: "bench-checks/:studyId", lazy: () => import("../shop/StudyPage") },
          { path: "*", element: <NotHere /> },
        ],
      },
    ],
  },
]);
