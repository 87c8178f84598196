/** Tests wait for what comes by itself as long as a busy machine may take. */
import { configure } from "@testing-library/react";

configure({ asyncUtilTimeout: 30_000 });
