import { Shelf } from '../ui/shelf/shelf';

export default function ShelfPage() {
  return <Shelf />;
}
