import { defineConfig, mergeConfig } from "vitest/config";
import own from "./vite.config";

export default mergeConfig(own, defineConfig({ test: { environment: "happy-dom", include: ["src/**/*.test.ts"] } }));
