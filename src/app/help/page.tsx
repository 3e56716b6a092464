import { Help } from '../../ui/help/help';

export default function HelpPage() {
  return <Help />;
}
