export { validate } from '@/trial/validator';
