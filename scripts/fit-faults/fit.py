"""Fits the net that looks at candidates of a sweep, to what make-candidates.ts wrote.

    python3 fit.py <folder> <out.json> [--test <folder>] [--sizes 16 32 32]

Needs torch and numpy (Debian: python3-torch). The net: two layers of 3 x 3 weights, each with rectifying and the
greatest of 2 x 2, then one layer over what they give and the candidate's inputs. Views are turned, mirrored and made
stronger or weaker in training. src/core/marking/sweep/fault-look.json is a list of three, all fitted in 7 epochs to the 200
pictures of make-candidates.ts and 60 plain ones (200 to 260): sizes 12 20 24 with seed 1, 16 32 32 with seed 2, 12 20 24 with
seed 3. A test folder holds records of pictures that were not fitted to, marked 2 where they do not count.
"""
import argparse
import json
import os
import re

import numpy as np
import torch
from torch import nn

SIDE, UNIT = 21, 31.0
parser = argparse.ArgumentParser()
parser.add_argument('folder')
parser.add_argument('out')
parser.add_argument('--test')
parser.add_argument('--epochs', type=int, default=7)
parser.add_argument('--hold', type=int, default=-1, help='number of the scene that is kept apart')
parser.add_argument('--inputs', type=int, default=27)
parser.add_argument('--sizes', type=int, nargs=3, default=(16, 32, 32), help='channels of the layers')
parser.add_argument('--seed', type=int, default=1)
parser.add_argument('--threads', type=int, default=2)
args = parser.parse_args()
torch.manual_seed(args.seed)
np.random.seed(args.seed)
torch.set_num_threads(args.threads)

record = np.dtype([('head', '<f4', 6), ('inputs', '<f4', args.inputs), ('view', 'i1', 3 * SIDE * SIDE)])


def read(folder):
    names = sorted((n for n in os.listdir(folder) if n.endswith('.bin')), key=lambda n: int(re.sub(r'\D', '', n)))
    return [np.fromfile(os.path.join(folder, n), record) for n in names]


class Look(nn.Module):
    def __init__(self, first, second, last):
        super().__init__()
        self.first = nn.Conv2d(3, first, 3)
        self.second = nn.Conv2d(first, second, 3)
        self.last = nn.Linear(9 * second + args.inputs, last)
        self.out = nn.Linear(last, 1)
        self.drop = nn.Dropout(0.15)

    def forward(self, view, inputs):
        a = nn.functional.max_pool2d(torch.relu(self.first(view)), 2)
        b = nn.functional.max_pool2d(torch.relu(self.second(a)), 2)
        c = torch.relu(self.last(self.drop(torch.cat([b.flatten(1), inputs], 1))))
        return self.out(c)[:, 0]


def views(records):
    return torch.from_numpy(records['view'].reshape(-1, SIDE, SIDE, 3).transpose(0, 3, 1, 2).astype(np.float32) / UNIT)


def turned(view):
    k = np.random.randint(8)
    view = torch.rot90(view, k % 4, (2, 3))
    # Contrasts differ from print to print.
    strength = 0.8 + 0.45 * torch.rand(len(view), 1, 1, 1)
    view = torch.cat([view[:, :2] * strength, view[:, 2:]], 1)
    return view.flip(3) if k >= 4 else view


def odds(net, records):
    net.eval()
    with torch.no_grad():
        return np.concatenate([
            net(views(part), torch.from_numpy(part['inputs'].copy())).numpy()
            for part in np.array_split(records, max(1, len(records) // 2000))])


def tell(name, o, records):
    label, ids = records['head'][:, 1], records['head'][:, 2] + 100000 * records['head'][:, 0]
    best = {}
    for v, i in zip(o[label == 1], ids[label == 1]):
        best[i] = max(v, best.get(i, -99))
    hits = np.sort(np.array(list(best.values())))[::-1]
    wrong = np.sort(o[label == 0])[::-1]
    rows = []
    for share in (0.05, 0.1, 0.2):
        # The lowest threshold that leaves so small a share of false ones.
        n = max((k for k in range(1, len(hits) + 1)
                 if (wrong >= hits[k - 1]).sum() <= share * (k + (wrong >= hits[k - 1]).sum())), default=0)
        rows.append(f'{n}/{len(hits)} at {hits[n - 1] if n else 0:.2f}')
    print(f'  {name}: found with 5, 10, 20 % false: ' + ', '.join(rows), flush=True)


pictures = read(args.folder)
fitted = np.concatenate([p for k, p in enumerate(pictures) if len(p) and int(p['head'][0, 0]) % 5 != args.hold])
held = [p for p in pictures if len(p) and int(p['head'][0, 0]) % 5 == args.hold]
tests = read(args.test) if args.test else []
print(len(fitted), 'candidates,', int(fitted['head'][:, 1].sum()), 'of faults')
net = Look(*args.sizes)
rate, batch = 2e-3, 512
steps = args.epochs * (len(fitted) // batch)
optimiser = torch.optim.AdamW(net.parameters(), rate, weight_decay=1e-3)
schedule = torch.optim.lr_scheduler.OneCycleLR(optimiser, rate, total_steps=steps + 1)
for epoch in range(args.epochs):
    net.train()
    order, total = np.random.permutation(len(fitted)), 0.0
    for k in range(0, len(order) - batch + 1, batch):
        part = fitted[order[k:k + batch]]
        guess = net(turned(views(part)), torch.from_numpy(part['inputs'].copy()))
        loss = nn.functional.binary_cross_entropy_with_logits(guess, torch.from_numpy(part['head'][:, 1].copy()))
        optimiser.zero_grad()
        loss.backward()
        optimiser.step()
        schedule.step()
        total += float(loss) * batch
    print(epoch, f'{total / len(order):.4f}', flush=True)
    if epoch % 4 == 3 or epoch == args.epochs - 1:
        if held:
            h = np.concatenate(held)
            tell('kept apart, first look', h['head'][:, 4], h)
            tell('kept apart', odds(net, h), h)
        for k, t in enumerate(tests):
            tell(f'test {k}, first look', t['head'][:, 4], t)
            tell(f'test {k}', odds(net, t), t)


def layer(weights, bias):
    """Weights of one input after another, outputs together."""
    return {'weights': flat(weights), 'bias': flat(bias)}


def flat(t):
    return [float(f'{v:.4g}') for v in t.detach().numpy().ravel()]


second = net.second.out_channels
last = net.last.weight.detach()
seen = last[:, :9 * second].reshape(-1, second, 3, 3).permute(2, 3, 1, 0).reshape(9 * second, -1)
json.dump({
    'first': layer(net.first.weight.permute(2, 3, 1, 0), net.first.bias),
    'second': layer(net.second.weight.permute(2, 3, 1, 0), net.second.bias),
    'last': layer(torch.cat([seen, last[:, 9 * second:].t()]), net.last.bias),
    'out': {'weights': flat(net.out.weight), 'bias': flat(net.out.bias)[0]},
}, open(args.out, 'w'), separators=(',', ':'))
