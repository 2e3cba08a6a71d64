import type { KeptOperation, OfSite } from '../kept-list';
import type { Course } from './course';

export type CourseOperation = KeptOperation<'course', Course, OfSite>;
