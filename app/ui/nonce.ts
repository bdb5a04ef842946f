import { setNonce } from 'get-nonce';

/** The nonce of this page's scripts, which styles that are made while it runs carry too; empty on the server. */
export function pageNonce(): string {
  if (typeof document === 'undefined') return '';
  return document.querySelector<HTMLScriptElement>('script[nonce]')?.nonce ?? '';
}

/** Lets the dialogs' scroll lock, which adds a style of its own, name the page's nonce. */
export function givePageNonce(): void {
  setNonce(pageNonce());
}
