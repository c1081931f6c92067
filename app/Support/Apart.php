<?php

namespace App\Support;

use Symfony\Component\Process\PhpExecutableFinder;

/**
 * A command of this application in a process of its own, which foreign bytes may spoil: it has a time, a memory and an answer it may
 * not exceed, can be ended from outside at any moment with whatever it has begun, and leaves nothing behind.
 */
final class Apart
{
    /** Microseconds between two looks at it. */
    private const LOOK = 10_000;

    /** What a process needs in addresses besides its memory, MB: libraries, stacks, files it maps. */
    private const BESIDES = 1024;

    private const KILL = 9;

    /** @var \ArrayObject<int, object>|null of the process itself: what it keeps open until it leaves */
    private static ?\ArrayObject $open = null;

    private ?int $code = null;

    private bool $isOver = false;

    /** @param  resource  $process */
    private function __construct(
        private $process,
        private readonly int $pid,
        private readonly string $scratch,
        private readonly float $began,
        private readonly Bounds $bounds,
    ) {
    }

    /** Said by the process itself, first of all. */
    public static function enter(): void
    {
        self::$open = new \ArrayObject;
    }

    /** What would be read to its end when nobody holds it any more, however long that is, is held until the process leaves. */
    public static function hold(object $open): void
    {
        self::$open?->append($open);
    }

    /** Leaves at once, without closing what is held: another program takes the place of this one, and has nothing to do. */
    public static function leave(): void
    {
        fflush(STDOUT);
        pcntl_exec('/bin/true');
    }

    /** @param  list<string>  $command  of artisan */
    public static function start(array $command, string $given, Bounds $bounds): self
    {
        $scratch = Scratch::make();
        file_put_contents("$scratch/given", $given);
        // A session of its own, so that what it starts itself ends with it; and it ends with whoever waits for it. Pages go first.
        $alone = ['setsid', 'setpriv', '--pdeathsig', 'KILL', 'nice', '-n', '19'];
        $shell = 'ulimit -v "$1"; ulimit -c 0; export TMPDIR="$2"; shift 2; exec "$@"';
        $addresses = (string) (($bounds->memory + self::BESIDES) * 1024);
        $process = proc_open(
            [...$alone, 'sh', '-c', $shell, 'sh', $addresses, $scratch, ...self::php($bounds, $scratch), base_path('artisan'), ...$command],
            [['file', "$scratch/given", 'r'], ['file', "$scratch/answer", 'w'], ['file', "$scratch/said", 'w']],
            $pipes,
            base_path(),
        );
        if ($process === false) {
            Scratch::drop($scratch);
            throw ApartEnded::broke('it could not be started');
        }

        return new self($process, proc_get_status($process)['pid'], $scratch, microtime(true), $bounds);
    }

    /** @return list<string> */
    private static function php(Bounds $bounds, string $scratch): array
    {
        $settings = [
            'memory_limit' => "{$bounds->memory}M", 'sys_temp_dir' => $scratch, 'display_errors' => 'stderr', ...Compiler::settings(),
        ];
        $php = [(new PhpExecutableFinder)->find(false) ?: 'php'];
        foreach ($settings as $name => $value) {
            array_push($php, '-d', "$name=$value");
        }

        return $php;
    }

    /**
     * @param  list<string>  $command
     * @return string what it answered
     *
     * @throws ApartEnded
     */
    public static function run(array $command, string $given, Bounds $bounds): string
    {
        $apart = self::start($command, $given, $bounds);
        try {
            while ($apart->isGoing()) {
                usleep(self::LOOK);
            }

            return $apart->answer();
        } finally {
            $apart->end();
        }
    }

    /** @throws ApartEnded where it takes more than it may; it is ended then */
    public function isGoing(): bool
    {
        if ($this->code !== null) {
            return false;
        }
        $status = proc_get_status($this->process);
        if (! $status['running']) {
            $this->code = $status['signaled'] ? 128 + $status['termsig'] : $status['exitcode'];

            return false;
        }
        if ($this->bounds->seconds !== null && microtime(true) - $this->began > $this->bounds->seconds) {
            $this->end();
            throw ApartEnded::slow($this->bounds->seconds);
        }
        $this->refuseLong();

        return true;
    }

    /**
     * @return string what it answered
     *
     * @throws ApartEnded where it broke off
     */
    public function answer(): string
    {
        $this->refuseLong();
        if ($this->code === 0) {
            return (string) file_get_contents("$this->scratch/answer");
        }
        $said = (string) @file_get_contents("$this->scratch/said", false, null, 0, 4000);
        if (preg_match('/Allowed memory size|Out of memory|bad_alloc|Cannot allocate|failed to allocate/i', $said) === 1) {
            throw ApartEnded::memory($this->bounds->memory);
        }
        // What it said stays here: it may quote what it read.
        $said === '' ?: report(new \RuntimeException('A process of its own ended and said: '.$said));
        throw ApartEnded::broke($this->code > 128 ? 'signal '.($this->code - 128) : "code $this->code");
    }

    /** Ends it and all it began, if it still goes on, and removes what it put down. */
    public function end(): void
    {
        if ($this->isOver) {
            return;
        }
        $this->isOver = true;
        posix_kill(-$this->pid, self::KILL) || posix_kill($this->pid, self::KILL);
        $this->code ??= 128 + self::KILL;
        proc_close($this->process);
        Scratch::drop($this->scratch);
    }

    private function refuseLong(): void
    {
        clearstatcache(true, "$this->scratch/answer");
        if ((int) @filesize("$this->scratch/answer") > $this->bounds->answer) {
            $this->end();
            throw ApartEnded::answer($this->bounds->answer);
        }
    }
}
