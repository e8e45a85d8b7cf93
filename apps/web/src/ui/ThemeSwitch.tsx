import { useEffect, useState } from 'react';
import css from './ThemeSwitch.module.css';

/** Where the choice is kept. */
const KEY = 'wembrel-theme';

/** Turns the dark theme on and off; remembered. Until it was used the page follows the system. */
export function ThemeSwitch() {
  const [dark, setDark] = useState(false);
  // The page has set it before it was drawn; on the server it is not known.
  useEffect(() => setDark(document.documentElement.dataset.theme === 'dark'), []);
  const turn = (to: boolean) => {
    setDark(to);
    document.documentElement.dataset.theme = to ? 'dark' : 'light';
    localStorage.setItem(KEY, to ? 'dark' : 'light');
  };
  return (
    <label className={css.theme}>
      <input
        type="checkbox"
        role="switch"
        checked={dark}
        aria-checked={dark}
        onChange={(event) => turn(event.target.checked)}
      />
      Dark theme
    </label>
  );
}
