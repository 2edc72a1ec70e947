import { render } from "preact";
import { keepDraft, mayChange } from "./definitions/draft.ts";
import { openDesk } from "./opening.ts";
import { Page } from "./page.tsx";
import { fetchLeaves } from "./words/late-leaves.ts";
import "./styles/ground.css";
import "./styles/question.css";
import "./styles/rows.css";
import "./styles/flag.css";
import "./styles/forms.css";
import "./styles/words.css";

const place = document.getElementById("page")!;
place.replaceChildren();
render(<Page />, place);
void openDesk().then(() => {
  keepDraft();
  if (mayChange()) requestIdleCallback(() => void fetchLeaves());
});
