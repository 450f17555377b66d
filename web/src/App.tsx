import { Link, Route, Switch } from "wouter";

import { useUnits } from "./api/units";
import { useLearnVocabulary } from "./api/vocabulary";
import { HealthBar } from "./features/HealthBar";
import { Shelf } from "./features/shelf/Shelf";
import { StudyPage } from "./features/StudyPage";
import { UnitsPage } from "./features/UnitsPage";
import { Notices } from "./ui/Notices";

export function App() {
  const tables = useLearnVocabulary();
  const { chosen, isAsked, ask } = useUnits();
  if (tables.error)
    return (
      <p role="alert" className="p-6 text-vermilion">
        The server does not answer: {tables.error.message} Start it again, then reload this page.
      </p>
    );
  if (!tables.data) return <p className="p-6 text-quiet">Fetching what the server knows…</p>;
  return (
    <div className="flex h-full flex-col">
      <HealthBar />
      {/* All that is said is said anew in other units. */}
      <Switch key={JSON.stringify(chosen)}>
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
      {isAsked && <UnitsPage onClose={() => ask(false)} />}
      <Notices />
    </div>
  );
}
