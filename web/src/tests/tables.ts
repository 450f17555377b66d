import { learn } from "@/api/vocabulary";

import { VOCABULARY } from "./vocabulary";

// The page waits for the server's tables before it draws anything.
learn(VOCABULARY);
