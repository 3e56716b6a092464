import Link from 'next/link';
import { methodIds } from '../../core/job';
import { methods } from '../../core/methods';
import { shortcutList } from '../bench/shortcut-list';

export function Help() {
  return (
    <main className="mx-auto max-w-3xl px-6 py-8 text-[14px]">
      <Link href="/" className="font-medium underline">
        Back to the shelf
      </Link>
      <h1 className="mt-4 text-[22px] font-semibold">Help</h1>
      <h2 className="mt-6 mb-2 text-[16px] font-semibold">How a mend is made</h2>
      <ol className="list-decimal space-y-1.5 pl-5">
        <li>Zoom in until the unwanted thing nearly fills the view. Space and drag pans.</li>
        <li>
          Mark it with room to spare, its shadow with it: paint over it, draw round it, scribble on it. Shift
          marks more, Alt takes away.
        </li>
        <li>
          Pick how to mend it. You can also pick the method first: then every mark is mended as soon as it is
          made.
        </li>
        <li>Look at it at 1:1, and flip between before and after.</li>
        <li>
          If it is not right: another try, another method, or drag its source. Nothing is lost; every mend
          stays as it is until you change it.
        </li>
      </ol>
      <h2 className="mt-6 mb-2 text-[16px] font-semibold">Marking</h2>
      <ul className="list-disc space-y-1.5 pl-5">
        <li>
          Lasso: drag round it, or click corner after corner; Enter closes. Shift and Alt together keep only
          what lies in both.
        </li>
        <li>Pick: press on a colour and pull to the right for more. For lettering, tick Everywhere.</li>
        <li>
          Grow: scribble over a thing, from head to foot, and its outline is found. Scribble more where some
          is missing, and with Alt where it took too much.
        </li>
        <li>
          Span: click along a wire, pole or crack. Its middle and width are found; so are the ones beside it.
        </li>
        <li>
          Shadows, reflections and bits that you left out are offered at the foot of the photo. The outlook on
          the card says what is likely to work.
        </li>
        <li>
          Something large goes better in islands: cut it across, lay a rough bridge of ground along a cut, and
          mend the parts from the easiest to the hardest. Each takes nothing from those that are still to
          come.
        </li>
        <li>
          Sweep lists dust, hairs and other small faults. Look at them exaggerated, refuse what belongs to the
          picture, and mend the others in one step.
        </li>
      </ul>
      <h2 className="mt-6 mb-2 text-[16px] font-semibold">Where it is taken from</h2>
      <ul className="list-disc space-y-1.5 pl-5">
        <li>
          Hold Alt and click to set a source. It shows inside the brush before you paint; target and source
          stand side by side below, with how well they match.
        </li>
        <li>
          Turn it, lay it on larger or smaller, mirror it; place a plane where the ground runs away from you,
          or a rail to stay on the same row and in the same focus. Where bricks run away, the outlook of a
          mark offers a plane that lies on them, for a fill of that mark too. A fill that sees one for itself
          keeps to it and says so; the switch “See planes” on its card keeps it from looking.
        </li>
        <li>
          Patch: draw round the thing, then drag from inside what is marked to where it should come from.
        </li>
        <li>
          A fill takes nothing from an avoid zone and does not go on with what stands there. Somebody who
          stands right beside the one you take out gets one by itself; draw it over whatever else a fill draws
          in. With an allow zone it takes from there only, however far off that is.
        </li>
        <li>
          Guide lines say what is hidden: draw each edge where two grounds meet behind the thing, up to where
          they meet in a corner. Each side of them is filled from its own side.
        </li>
        <li>
          Heal and patch tint what touches their edge. Where that is something else, add a stop line: no tone
          crosses it.
        </li>
        <li>
          The source map shades the photo by how well each place would serve. Best takes the best one, and
          next best goes on from there.
        </li>
        <li>
          A mend that covers too much can be rubbed away in part, on its card under Blend, and brought back.
        </li>
      </ul>
      <h2 className="mt-6 mb-2 text-[16px] font-semibold">Methods</h2>
      <dl className="grid grid-cols-[5rem_1fr] gap-y-1.5">
        {methodIds.map((id) => (
          <div key={id} className="contents">
            <dt className="font-semibold">{methods[id].title}</dt>
            <dd>{methods[id].says}</dd>
          </div>
        ))}
      </dl>
      <h2 className="mt-6 mb-2 text-[16px] font-semibold">Keys</h2>
      <table className="w-full">
        <thead className="sr-only">
          <tr>
            <th>Key</th>
            <th>What it does</th>
          </tr>
        </thead>
        <tbody>
          {shortcutList.map(({ keys, does }) => (
            <tr key={keys} className="border-b border-line">
              <td className="w-56 py-1.5 pr-4 font-medium">{keys}</td>
              <td className="py-1.5">{does}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </main>
  );
}
