<?php

namespace App\Loading;

use Symfony\Component\Process\Process;

/** Other processes of this machine that work on a pass beside this one, where no queue hands it out. */
final readonly class MoreWorkers
{
    /** As they decide how fast a process is. */
    private const SETTINGS = ['opcache.enable_cli', 'opcache.jit_buffer_size', 'opcache.jit', 'memory_limit'];

    /** @param  list<Process>  $processes */
    private function __construct(private array $processes)
    {
    }

    public static function on(int $pass, int $number): self
    {
        $settings = [];
        foreach (self::SETTINGS as $name) {
            array_push($settings, '-d', "$name=".ini_get($name));
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
