import { setNonce } from 'get-nonce';

let known: string | null = null;

/**
 * The nonce of this page's scripts, which styles that are made while it runs carry too; empty on the server. It is read
 * once, when the page starts: scripts that are put into it later are not from the server and have none.
 */
export function pageNonce(): string {
  if (typeof document === 'undefined') return '';
  known ??= document.querySelector<HTMLScriptElement>('script[nonce]')?.nonce ?? '';
  return known;
}

/** Lets the dialogs' scroll lock, which adds a style of its own, name the page's nonce. */
export function givePageNonce(): void {
  setNonce(pageNonce());
}
