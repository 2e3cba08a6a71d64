import { EAP_TYPE } from '../eap';
import { judgeChap, rejected, unknownTo } from '../judged';
import type { MethodParts, Step } from './step';

/** EAP-MD5 (RFC 3748 §5.4): a challenge, and what answers it. It proves nobody’s server, and makes no keys. */
export function beginMd5(name: string, parts: MethodParts): Step {
  const challenge = parts.random(16);
  return {
    kind: 'ask',
    type: EAP_TYPE.md5,
    data: Uint8Array.of(16, ...challenge),
    next: async ({ id, type, data }) => {
      const over = (judged: ReturnType<typeof rejected>): Step => ({ kind: 'over', judged });
      if (type !== EAP_TYPE.md5 || data[0] !== 16 || data.length < 17)
        return over(rejected('it does not answer the challenge'));
      const user = await parts.find(name);
      return over(user ? judgeChap(Uint8Array.of(id, ...data.slice(1, 17)), challenge, user) : unknownTo(name));
    },
  };
}
