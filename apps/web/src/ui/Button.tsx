import type { ButtonHTMLAttributes, ReactNode } from 'react';
import css from './Button.module.css';

export interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  /** `main`: the one action that the page is for. */
  tone?: 'plain' | 'main' | 'quiet';
  children: ReactNode;
}

export function Button({ tone = 'plain', className, type = 'button', ...rest }: ButtonProps) {
  return <button type={type} className={`${css.button} ${css[tone]} ${className ?? ''}`} {...rest} />;
}

export function ButtonLink({
  href,
  tone = 'plain',
  children,
  download,
}: {
  href: string;
  tone?: 'plain' | 'main';
  children: ReactNode;
  download?: boolean;
}) {
  return (
    <a className={`${css.button} ${css[tone]}`} href={href} download={download}>
      {children}
    </a>
  );
}
