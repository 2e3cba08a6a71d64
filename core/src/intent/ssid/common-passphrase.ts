/** Passphrases that guessers try first, of eight characters and more, as they are without what people put behind them. */
const COMMON: ReadonlySet<string> = new Set(
  `12345678 123456789 1234567890 0123456789 987654321 9876543210 87654321 11111111 00000000 22222222 88888888 12341234 11223344
   112233445566 123123123 12121212 13131313 147258369 123654789 741852963 789456123 159357456 password passw0rd p@ssw0rd p@ssword
   passwort passphrase mypassword yourpassword thepassword newpassword wifipassword password1234 qwertyui qwertyuiop qwerty123456
   qwertzui qwertzuiop azertyui azertyuiop asdfghjk asdfghjkl zxcvbnm123 zxcvbnmm 1qaz2wsx 1qaz2wsx3edc 1q2w3e4r 1q2w3e4r5t qazwsxedc
   abcdefgh abcdefghi abc12345 abcd1234 a1b2c3d4 aaaaaaaa iloveyou iloveyou2 letmein1 letmeinnow welcome1 welcome123 welcomehome
   changeme changeme1 changemenow changeit administrator admin123 adminadmin admin1234 rootroot guestguest guest123 guest1234
   guestwifi wifiguest wireless internet wifi1234 wifiwifi homewifi freewifi netgate1 network1 networkkey security secret123 secretkey
   trustno1 superman batman123 spiderman starwars football baseball basketball sunshine princess computer whatever princess1 dragon123
   monkey123 shadow123 master123 michelle jennifer jordan23 charlie1 default1 defaultkey testtest test1234 test12345 hello123
   hellohello helloworld goodluck opensesame sesame123 letmein123 letmeinplease access14 mustang1 michael1 jessica1 password12`.split(
    /\s+/,
  ),
);

/** What people put behind a word so that it passes for another: figures, and a mark. */
const BEHIND = /[\d!?.*#_-]{1,6}$/;

/** Whether a passphrase is one of those that guessers try first, whatever the case of its letters and what is put behind it. */
export function isCommonPassphrase(text: string): boolean {
  const plain = text.toLowerCase();
  return COMMON.has(plain) || (plain.length > 8 && COMMON.has(plain.replace(BEHIND, '')));
}
