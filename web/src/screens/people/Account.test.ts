import { expect, test } from "vitest";
import { browser } from "./Account";

test.each([
  [
    "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/150.0.0.0 Safari/537.36",
    "Chrome or Chromium on Linux",
  ],
  ["Mozilla/5.0 (Windows NT 10.0; Win64; x64; rv:140.0) Gecko/20100101 Firefox/140.0", "Firefox on Windows"],
  [
    "Mozilla/5.0 (iPad; CPU OS 18_0 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.0 Safari/604.1",
    "Safari on iOS",
  ],
  ["Mozilla/5.0 (Windows NT 10.0) AppleWebKit/537.36 Chrome/150 Safari/537.36 Edg/150", "Edge on Windows"],
  ["curl/8.0", "curl"],
  ["", "A browser"],
])("%s reads %s", (agent, says) => expect(browser(agent)).toBe(says));
