// Runs the accessibility library that was loaded before, and tells each violation with its places.
const done = arguments[arguments.length - 1];
axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'] }).then(({ violations }) =>
    done(
        violations.map(
            (v) => `${v.id}: ${v.nodes.slice(0, 3).map((n) => `${n.target.join(' ')} (${n.failureSummary})`).join('; ')}`,
        ),
    ),
);
