import { Link, Route, Switch } from "wouter";

import { Shelf } from "./features/shelf/Shelf";
import { StudyPage } from "./features/StudyPage";

export function App() {
  return (
    <div className="flex h-full flex-col">
      <Switch>
        <Route path="/studies/:id/:view">{(params) => <StudyPage id={Number(params.id)} view={params.view} />}</Route>
        <Route>
          <header className="flex h-11 items-center border-b border-line px-4">
            <Link href="/" className="text-[18px] font-bold tracking-tight">
              ul<span className="text-verdigris">m</span>ek
            </Link>
          </header>
          <Shelf />
        </Route>
      </Switch>
    </div>
  );
}
