/** The languages whose ways of writing Han letters differ (BCP 47). */
export type HanLanguage = 'ja' | 'ko' | 'zh-Hans' | 'zh-Hant';

/** The way in which a person reads Han letters, as far as their time zone (IANA name) tells. */
export function hanLanguageIn(zone: string): HanLanguage {
  if (/Tokyo|Japan/.test(zone)) return 'ja';
  if (/Seoul|Pyongyang|ROK/.test(zone)) return 'ko';
  return /Taipei|Hong_Kong|Hongkong|Macau|Macao|ROC/.test(zone) ? 'zh-Hant' : 'zh-Hans';
}

/** The language in which a name of somebody in a zone is written, where its letters leave that open. */
export function hanLanguage(text: string, zone: string | undefined): HanLanguage | undefined {
  return zone && /\p{Script=Han}/u.test(text) ? hanLanguageIn(zone) : undefined;
}
