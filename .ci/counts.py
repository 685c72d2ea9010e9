#!/usr/bin/env python3
"""Counts the instructions of pieces of work: three fixed ones against what is written in counts.json, and all kinds at a size
and at twice the size, which must not cost more than 2.2 times as much. Needs valgrind.

usage: counts.py [--write] [KIND…]     --write puts the counts of the fixed ones into counts.json
       counts.py --plot FILE.svg        draws how the cost grows with elements, rules, custom properties and depth
"""
import json, os, re, subprocess, sys, tempfile
from concurrent.futures import ThreadPoolExecutor
HERE = os.path.dirname(os.path.abspath(__file__))
FILE = os.path.join(HERE, 'counts.json')
SIZE, MOST_GROWTH, MOST_OF_ORDINARY, MOST_MORE = 200, 2.2, 10, 1.05
# The HTML parser looks through the open elements for each tag.
PARSER, MOST_GROWTH_IN_PARSER = ('deep', 'has-inside'), 2.5
FIXED = [('ordinary', 1000), ('variables', 400), ('tried', 200)]

build = subprocess.run(['cargo', 'bench', '--no-run', '--quiet', '-p', 'clear-cascade', '--bench', 'work', '--message-format', 'json'],
                       stdout=subprocess.PIPE, text=True, check=True, cwd=os.path.dirname(HERE)).stdout
made = [m for m in map(json.loads, build.splitlines()) if m.get('executable') and m['target']['name'] == 'work']
WORK = made[-1]['executable']

def count(kind, size):
    """What a piece of work takes with all that comes before it, in a process of its own."""
    run = subprocess.run(['valgrind', '--tool=callgrind', '--callgrind-out-file=/dev/null', WORK, kind, str(size)], capture_output=True, text=True)
    found = re.search(r'Collected : (\d+)', run.stderr)
    if run.returncode or not found: sys.exit(f'{kind} at {size} failed:\n{run.stderr[-2000:]}')
    return int(found.group(1)), int(run.stdout.split()[0])

def growths(kinds):
    """Of each kind what it takes at the size and at twice the size, less what next to nothing takes, and how many bytes it is. All are
    done in one process, each with a first time that does not count: what is made once is made there."""
    sizes = [1, 1, SIZE, 2 * SIZE]
    with tempfile.TemporaryDirectory() as folder:
        dumps = ['--zero-before=work::counted', '--dump-after=work::counted', f'--callgrind-out-file={folder}/out']
        run = subprocess.run(['valgrind', '--tool=callgrind', *dumps, WORK, *kinds, *map(str, sizes)], capture_output=True, text=True)
        if run.returncode: sys.exit(f'{kinds} failed:\n{run.stderr[-2000:]}')
        def total(number):
            with open(f'{folder}/out.{number}') as dump: return int(next(line for line in dump if line.startswith('totals:')).split()[1])
        lengths = [int(line.split()[0]) for line in run.stdout.splitlines()]
        rows = []
        for at, kind in enumerate(kinds):
            none, once, twice = (total(at * len(sizes) + i) for i in (2, 3, 4))
            rows.append((kind, max(once - none, 1), twice - none, lengths[at * len(sizes) + 2]))
        return rows

def plot(file):
    """Four panels: instructions by size, each from nothing to four sizes, with the numbers at the last point."""
    panels = [('elements', 'elements', 4000, 1), ('rules', 'rules', 4000, 1), ('variables', 'custom properties', 2000, 1), ('deep', 'depth', 4000, 8)]
    width, height, left = 250, 200, 20
    out = [f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {len(panels) * width} {height}" font-family="system-ui, sans-serif" font-size="12" role="img" aria-label="Instructions by size">',
           '<style>text { fill: #333 } .line { stroke: #0a6; fill: none; stroke-width: 2 } .dot { fill: #0a6 } .axis { stroke: #999 } @media (prefers-color-scheme: dark) { text { fill: #ddd } .line { stroke: #4dc } .dot { fill: #4dc } }</style>']
    for at, (kind, name, most, part) in enumerate(panels):
        sizes = [most // 4, most // 2, most * 3 // 4, most]
        with ThreadPoolExecutor(os.cpu_count()) as pool: counts = [n for n, _ in pool.map(lambda size: count(kind, size), [1] + sizes)]
        cost = [n - counts[0] for n in counts]
        x, y = at * width + left, height - 40
        points = [(x + s / most * (width - 70), y - n / max(cost[-1], 1) * (height - 100)) for s, n in zip([0] + sizes, cost)]
        out.append(f'<text x="{x}" y="20" font-weight="bold">{name}</text><path class="axis" d="M{x} {y - height + 100}V{y}H{x + width - 70}" fill="none"/>')
        out.append('<polyline class="line" points="' + ' '.join(f'{a:.1f},{b:.1f}' for a, b in points) + '"/>')
        out += [f'<circle class="dot" cx="{a:.1f}" cy="{b:.1f}" r="3"/>' for a, b in points[1:]]
        out.append(f'<text x="{x + width - 70}" y="{y + 18}" text-anchor="end">{most // part:,}</text><text x="{points[-1][0]:.1f}" y="{points[-1][1] - 8:.1f}" text-anchor="end">{cost[-1] / 1e6:,.0f} M instructions</text>')
    with open(file, 'w') as svg: svg.write('\n'.join(out + ['</svg>', '']))

if '--plot' in sys.argv:
    plot(sys.argv[sys.argv.index('--plot') + 1])
    sys.exit()
faults = []
asked = [a for a in sys.argv[1:] if not a.startswith('--')]
kinds = asked or subprocess.run([WORK], capture_output=True, text=True, check=True).stdout.split()
with ThreadPoolExecutor(os.cpu_count()) as pool:
    if not asked:
        counts = dict(zip((f'{k} {n}' for k, n in FIXED), pool.map(lambda f: count(*f)[0], FIXED)))
        if '--write' in sys.argv:
            with open(FILE, 'w') as out: json.dump({name: {'instructions': n, 'why': ''} for name, n in counts.items()}, out, indent=2); out.write('\n')
        known = json.load(open(FILE))
        for name, n in counts.items():
            was = known[name]['instructions']
            print(f'{name:22} {n / 1e6:9.1f} M instructions, {(n / was - 1) * 100:+.1f}% against what is written down')
            if n > was * MOST_MORE: faults.append(f'{name} takes {n} instructions, {was} are written down: make it cheaper, or write the new count down with the reason')
    parts = 4 * os.cpu_count()
    rows = [row for part in pool.map(growths, [kinds[i::parts] for i in range(min(parts, len(kinds)))]) for row in part]
ordinary = next((once / size for kind, once, _, size in rows if kind == 'ordinary'), None)
for kind, once, twice, size in sorted(rows, key=lambda r: -r[2] / r[1]):
    # What takes next to nothing, as where a limit is met, says nothing.
    ratio = twice / once if twice > 3e5 else 0
    by_size = once / size / ordinary if ordinary else 0
    print(f'{kind:22} {once / 1e6:9.1f} M at {SIZE}, {ratio:5.2f} times that at twice the size, {by_size:5.1f} times an ordinary page of its size')
    if ratio > (MOST_GROWTH_IN_PARSER if kind in PARSER else MOST_GROWTH): faults.append(f'{kind} takes {ratio:.2f} times as much for twice the size')
    if by_size > MOST_OF_ORDINARY: faults.append(f'{kind} takes {by_size:.1f} times as much as an ordinary page of its size')
print('\n'.join(faults))
sys.exit(bool(faults))
