<?php

namespace Baggage\Core\Loading;

/** Why a target refused an order. */
final readonly class Said
{
    /** A value that must be unique stands in another record. */
    public const TAKEN = 'taken';

    public const REFUSED = 'refused';

    /**
     * @param  self::TAKEN|self::REFUSED  $code
     * @param  list<string>  $fields  it is about; none for the record as a whole
     * @param  string  $message  in words a client can read
     */
    public function __construct(public string $code, public array $fields, public string $message)
    {
    }
}
