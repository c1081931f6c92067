#!/usr/bin/env php
<?php
// php demo/generate.php [--scale=1] [--seed=1998] [--out=demo/out]: writes the legacy files of the demo and the answer key.

require __DIR__.'/../vendor/autoload.php';

$options = getopt('', ['scale:', 'seed:', 'out:']);
$out = (string) ($options['out'] ?? __DIR__.'/out');
$summary = (new Demo\Generator((float) ($options['scale'] ?? 1), (int) ($options['seed'] ?? 1998), $out))->write();
foreach ($summary as $load => $outcomes) {
    echo str_pad($load, 22), json_encode($outcomes), PHP_EOL;
}
