import { wordsOfList } from '../kept-list';
import type { Noun } from '../noun';
import { applyCourse } from './apply';
import { findCourses, namingOfCourses } from './names';
import type { CourseOperation } from './operations';

export const course: Noun<CourseOperation> = {
  apply: applyCourse,
  words: wordsOfList('course', 'course'),
  naming: namingOfCourses,
  find: findCourses,
};
