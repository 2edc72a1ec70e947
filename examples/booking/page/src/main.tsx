import { render } from "preact";
import { App } from "./app.tsx";
import "./styles/page.css";

render(<App />, document.getElementById("page")!);
