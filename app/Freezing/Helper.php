<?php

namespace App\Freezing;

use App\Support\BrokenOff;

/**
 * A process of its own, on another core, that is handed files of rows one after the other. It is a copy of this process made at the
 * moment of its start, so it knows all that was known then; what it learns comes back as an answer at the end.
 */
final class Helper
{
    /** @param  resource  $line */
    private function __construct(
        private ?int $process,
        private $line,
        private int $given = 0,
        private int $done = 0,
        private readonly string $answer = '',
    ) {
    }

    /**
     * @param  \Closure(string, int, int): void  $work  path of the file, number of its first row, number of rows
     * @param  (\Closure(): mixed)|null  $answer  asked for at the end
     * @param  string  $file  where the answer is put down
     */
    public static function start(\Closure $work, ?\Closure $answer, string $file): ?self
    {
        $pair = function_exists('pcntl_fork') ? stream_socket_pair(STREAM_PF_UNIX, STREAM_SOCK_STREAM, 0) : false;
        if ($pair === false) {
            return null;
        }
        $process = pcntl_fork();
        if ($process === 0) {
            fclose($pair[0]);
            self::serve($pair[1], $work, $answer, $file);
        }
        fclose($pair[1]);
        if ($process < 0) {
            unlink($file);

            return null;
        }

        return new self($process, $pair[0], 0, 0, $file);
    }

    /**
     * @param  resource  $line
     * @param  \Closure(string, int, int): void  $work
     * @param  (\Closure(): mixed)|null  $answer
     */
    private static function serve($line, \Closure $work, ?\Closure $answer, string $file): never
    {
        try {
            while (($asked = fgets($line)) !== false && $asked !== "end\n") {
                [$path, $first, $rows] = explode("\t", trim($asked));
                $work($path, (int) $first, (int) $rows);
                fwrite($line, "done\n");
            }
            if ($asked !== false && $answer !== null) {
                file_put_contents($file, serialize($answer()));
            }
            fwrite($line, "end\n");
        } catch (\Throwable $e) {
            fwrite($line, 'failed '.strtr($e->getMessage(), "\n", ' ')."\n");
        }
        // Ended without a farewell: the database connections are the other process's.
        posix_kill((int) getmypid(), SIGKILL);
        exit(1);
    }

    public function give(string $path, int $first, int $rows): void
    {
        fwrite($this->line, "$path\t$first\t$rows\n");
        $this->given++;
    }

    /**
     * Waits until at most so many files are not done yet.
     *
     * @return int files done so far
     */
    public function wait(int $open): int
    {
        while ($this->given - $this->done > $open) {
            $this->hear('done');
            $this->done++;
        }

        return $this->done;
    }

    /**
     * @param  list<class-string>  $parts  classes the answer may be made of
     * @return mixed the answer, once all files are done
     */
    public function finish(array $parts = []): mixed
    {
        $this->wait(0);
        fwrite($this->line, "end\n");
        $this->hear('end');
        $answer = (string) file_get_contents($this->answer);
        $this->abandon();

        return $answer === '' ? null : unserialize($answer, ['allowed_classes' => $parts]);
    }

    private function hear(string $word): void
    {
        $said = fgets($this->line);
        if ($said !== "$word\n") {
            throw BrokenOff::helper(
                is_string($said) && str_starts_with($said, 'failed ') ? trim(substr($said, 7)) : '',
            );
        }
    }

    /** Ends it, whatever it is doing. */
    public function abandon(): void
    {
        if ($this->process !== null) {
            posix_kill($this->process, SIGKILL);
            pcntl_waitpid($this->process, $status);
            $this->process = null;
            @unlink($this->answer);
        }
    }
}
