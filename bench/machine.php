<?php

// php bench/machine.php [--sequences=1000] [--from=1000]: the state machine of tests/Core/LaneMachineTest over any number of random
// sequences. Prints how many steps and kills there were, and every sequence that ends in something wrong.

use Tests\Support\LaneMachine;

require __DIR__.'/../vendor/autoload.php';
$options = getopt('', ['sequences:', 'from:']);
$from = (int) ($options['from'] ?? 1000);
$until = $from + (int) ($options['sequences'] ?? 1000);
$steps = $kills = $wrong = 0;
for ($seed = $from; $seed < $until; $seed++) {
    $machine = new LaneMachine($seed);
    for ($i = 0; $i < 40 && $machine->broken() === []; $i++) {
        $machine->step();
    }
    if ($machine->broken() === []) {
        $machine->finish();
    }
    $steps += count($machine->done);
    $kills += $machine->kills;
    if ($machine->broken() !== []) {
        $wrong++;
        echo "seed $seed: ", implode('; ', $machine->broken()), "\n  after ", implode(', ', $machine->done), "\n";
    }
}
echo number_format($until - $from), ' sequences, ', number_format($steps), ' steps, ', number_format($kills), " broken off, $wrong wrong\n";
exit($wrong === 0 ? 0 : 1);
