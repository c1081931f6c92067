<?php

namespace App\Loading;

use App\Support\Compiler;
use Symfony\Component\Process\Process;

/** Other processes of this machine that work on a pass beside this one, where no queue hands it out. */
final readonly class MoreWorkers
{
    /** @param  list<Process>  $processes */
    private function __construct(private array $processes)
    {
    }

    public static function on(int $pass, int $number): self
    {
        $settings = [];
        foreach (Compiler::settings() + ['memory_limit' => ini_get('memory_limit')] as $name => $value) {
            array_push($settings, '-d', "$name=$value");
        }
        $processes = [];
        for ($i = 0; $i < $number; $i++) {
            $process = new Process([PHP_BINARY, ...$settings, base_path('artisan'), 'baggage:work-on', (string) $pass], base_path());
            $process->setTimeout(null);
            $process->disableOutput();
            $process->start();
            $processes[] = $process;
        }

        return new self($processes);
    }

    /** They end by themselves when nothing is left for them. */
    public function wait(): void
    {
        foreach ($this->processes as $process) {
            $process->wait();
        }
    }
}
