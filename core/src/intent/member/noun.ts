import type { Noun } from '../noun';
import { applyMember } from './apply';
import { findMembers } from './names';
import type { MemberOperation } from './operations';
import { secretsOfMember } from './secrets';

export const member: Noun<MemberOperation> = {
  apply: applyMember,
  words: (operation) =>
    operation.type === 'member.add'
      ? `a site joined to others as a ${operation.member.role}`
      : operation.type === 'member.remove'
        ? 'a site taken out of those that are joined'
        : `${Object.keys(operation.to).join(', ')} of a joined site changed`,
  secrets: secretsOfMember,
  find: findMembers,
};
