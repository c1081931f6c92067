<?php

namespace Baggage\Core\Reading\Workbook;

/**
 * Dates as workbooks keep them: days since the end of 1899, with a 29 February 1900 that never was, or days since 1904
 * (ECMA-376, part 1, 18.17.4.1).
 */
final readonly class SerialDate
{
    /**
     * @param  int  $seconds  of the day
     * @param  bool  $phantom  whether it is the day that never was
     */
    private function __construct(
        public int $year,
        public int $month,
        public int $day,
        public int $weekday,
        public int $seconds,
        public int $wholeDays,
        public bool $phantom = false,
    ) {
    }

    public static function of(float $serial, bool $since1904): ?self
    {
        if ($since1904) {
            $serial += 1462;
        }
        if ($serial < 0 || $serial >= 2_958_466) {
            return null;
        }
        $days = (int) floor($serial);
        $seconds = (int) round(($serial - $days) * 86_400);
        if ($seconds >= 86_400) {
            $days++;
            $seconds -= 86_400;
        }
        if ($days === 60 && ! $since1904) {
            return new self(1900, 2, 29, 3, $seconds, $days, true);
        }
        // Day 1 is 1 January 1900; from March 1900 on the phantom day has to be taken off again.
        $stamp = ($days - 25_569 + ($days < 60 ? 1 : 0)) * 86_400;
        [$y, $m, $d, $w] = array_map(intval(...), explode(' ', gmdate('Y n j w', $stamp)));

        return new self($y, $m, $d, $days < 60 ? ($w + 6) % 7 : $w, $seconds, $days);
    }

    /** ISO 8601: a date, a time of day for values below one day, or both. */
    public function iso(): string
    {
        $date = sprintf('%04d-%02d-%02d', $this->year, $this->month, $this->day);
        $time = gmdate('H:i:s', $this->seconds);

        return $this->wholeDays === 0 ? $time : ($this->seconds === 0 ? $date : "$date $time");
    }
}
