<?php

namespace App\Queueing;

/** A queue for each kind of work, with workers of its own: none of them keeps another waiting. */
enum Kind: string
{
    /** Files and tables that are frozen. */
    case Takes = 'takes';

    /** Rounds that are loaded, and ended. */
    case Passes = 'passes';

    /** What goes through the rows there are: checks, counts, studies, repairs. */
    case Rows = 'rows';

    /** What a page could not wait for. */
    case Looks = 'looks';

    /** Workers of this kind. */
    public function workers(): int
    {
        $many = max(1, (int) config('baggage.workers'));

        return match ($this) {
            self::Passes => $many,
            // One more than one migration may have.
            self::Takes => $many + 1,
            self::Rows => 3,
            self::Looks => 1,
        };
    }

    /**
     * Workers one migration may have at a time. What goes on for hours leaves one for the others; a pass leaves by itself when others wait.
     */
    public function atMost(): int
    {
        return $this === self::Passes ? $this->workers() : max(1, $this->workers() - 1);
    }
}
