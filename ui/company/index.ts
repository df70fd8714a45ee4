export { CompanyPanel } from './company-panel';
