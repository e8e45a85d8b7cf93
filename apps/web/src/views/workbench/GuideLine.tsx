import X from 'lucide-react/icons/x';
import type { ProjectView } from '../../contract/project.ts';
import type { ViewName } from '../../project/stages.ts';
import { Button } from '../../ui/Button.tsx';
import css from './GuideLine.module.css';
import { GUIDE, guideStep } from './guide.ts';
import { useGuide } from './use-guide.ts';

export interface GuideLineProps {
  project: ProjectView;
  view: ViewName;
  go: (view: ViewName) => void;
}

/** The next of five steps, for people who are here the first time; it goes for good when it is dismissed. */
export function GuideLine({ project, view, go }: GuideLineProps) {
  const { on, dismiss } = useGuide();
  if (!on) return null;
  const at = guideStep(project);
  const step = GUIDE[at];
  return (
    <section className={css.line} aria-label="Guide">
      <ol aria-hidden>
        {GUIDE.map(({ title }, i) => (
          <li key={title} className={i < at ? css.done : i === at ? css.now : ''} />
        ))}
      </ol>
      <p>
        {at + 1} of {GUIDE.length}: <b>{step.title}.</b> {step.text}
      </p>
      {step.view !== view && (
        <Button tone="quiet" onClick={() => go(step.view)}>
          Go there
        </Button>
      )}
      <Button tone="quiet" aria-label="Dismiss the guide" title="Dismiss; Help brings it back" onClick={dismiss}>
        <X size={14} aria-hidden />
      </Button>
    </section>
  );
}
