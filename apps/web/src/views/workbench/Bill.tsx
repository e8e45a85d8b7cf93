import { DEVICE_TITLES } from '@wembrel/core/decisions/budget';
import { useState } from 'react';
import type { ProjectView } from '../../contract/project.ts';
import { FORMAT_TITLES } from '../../project/format-titles.ts';
import { showPlanPicture } from '../../project/plan-picture.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { MiddleCut } from '../../ui/MiddleCut.tsx';
import { Account } from './Account.tsx';
import css from './Bill.module.css';
import { BillFoot, type BillFootProps, jobOf } from './BillFoot.tsx';
import { BudgetDialog } from './BudgetDialog.tsx';
import { OfferLine } from './OfferLine.tsx';
import { StageNav, type StageNavProps } from './StageNav.tsx';
import { useOffer } from './use-offer.ts';

export type BillProps = StageNavProps & BillFootProps & { edit: ViewProps['edit'] };

/** The running account: before → after, and the stages as its lines. It is also the navigation. */
export function Bill({ project, view, live, forecast, go, step, onHelp, onFind, edit }: BillProps) {
  const offer = useOffer(project, !jobOf(project));
  const review = () => {
    showPlanPicture('proposal');
    go('plan');
  };
  return (
    <aside className={css.bill} aria-label="The bill">
      <header className={css.top}>
        <a className={css.home} href="/">
          Wembrel
        </a>
        <p className={css.project}>
          <MiddleCut text={project.name} />
        </p>
      </header>
      <Account project={project} forecast={forecast} />
      <BudgetLine project={project} edit={edit} />
      <div>
        {offer && <OfferLine offer={offer} format={project.decisions.budget.format} edit={edit} onReview={review} />}
      </div>
      <StageNav project={project} view={view} forecast={forecast} go={go} />
      <BillFoot project={project} live={live} step={step} onHelp={onHelp} onFind={onFind} />
    </aside>
  );
}

/** What memory is counted as, and the budget that the figures are held against. */
function BudgetLine({ project, edit }: { project: ProjectView; edit: ViewProps['edit'] }) {
  const [open, setOpen] = useState(false);
  const { budget } = project.decisions;
  // Device and format are always there.
  const none = budget.device === 'own' && Object.values(budget).filter((value) => value !== null).length <= 2;
  return (
    <>
      <p className={css.unit}>
        Memory as {FORMAT_TITLES[budget.format]} with mips. Budget:{' '}
        <button type="button" className={css.link} onClick={() => setOpen(true)}>
          {none ? 'none yet' : DEVICE_TITLES[budget.device]}
        </button>
      </p>
      {open && <BudgetDialog project={project} edit={edit} onClose={() => setOpen(false)} />}
    </>
  );
}
