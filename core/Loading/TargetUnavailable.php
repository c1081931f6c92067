<?php

namespace Baggage\Core\Loading;

/** The target does not answer; the pass stops cleanly and can be resumed. */
final class TargetUnavailable extends \RuntimeException
{
    /** Whether it answers and was only in another's way, so that the same may be tried again at once. */
    public bool $isSoon = false;

    /** Seconds it asks not to be asked again within, where it says so. */
    public ?int $after = null;

    public static function because(string $why, ?\Throwable $e = null): self
    {
        return new self($why, 0, $e);
    }

    /** It answers, and wants to be left alone for a while. */
    public static function askingForTime(string $why, int $seconds): self
    {
        $busy = new self($why);
        $busy->after = $seconds;

        return $busy;
    }

    public static function brokeOff(\Throwable $e): self
    {
        return new self('The target broke off the batch: '.$e->getMessage(), 0, $e);
    }

    public static function inTheWay(\Throwable $e): self
    {
        $busy = new self('Another writer was in the way again and again: '.$e->getMessage(), 0, $e);
        $busy->isSoon = true;

        return $busy;
    }

    public static function noRight(string $own, \Throwable $e): self
    {
        $is = preg_match('/^([A-Z, ]+) command denied to user (\S+) for (?:table|column) (.+)$/', $own, $m) === 1;
        $do = $is ? " It lacks the right $m[1] on $m[3]: GRANT $m[1] ON $m[3] TO $m[2];" : '';

        return new self("The account Baggage signs in to the target with may not do that.$do The target says: $own.", 0, $e);
    }

    public static function referencesNotSet(string $entity, string $field, \Throwable $e): self
    {
        return new self("The references $entity.$field could not be set: ".$e->getMessage(), 0, $e);
    }

    public static function noReceipts(string $table, \Throwable $e): self
    {
        return new self(
            "The table $table cannot be made in the target, so a pass could not be resumed safely: "
                .$e->getMessage(),
            0,
            $e,
        );
    }

    public static function keysMissing(int $keys, int $records): self
    {
        return new self("The target gave $keys keys for $records records; it must be MariaDB 10.5 or later.");
    }

    public static function damagedReceipt(): self
    {
        return new self('A receipt in the target cannot be read; its bytes are damaged.');
    }

    public static function unknownReceipt(): self
    {
        return new self('A receipt in the target was written by another version of Baggage. Resume the pass with that one.');
    }
}
