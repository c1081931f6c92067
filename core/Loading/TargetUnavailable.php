<?php

namespace Baggage\Core\Loading;

/** The target does not answer; the pass stops cleanly and can be resumed. */
final class TargetUnavailable extends \RuntimeException
{
    public static function because(string $why, ?\Throwable $e = null): self
    {
        return new self($why, 0, $e);
    }

    public static function brokeOff(\Throwable $e): self
    {
        return new self('The target broke off the batch: '.$e->getMessage(), 0, $e);
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
