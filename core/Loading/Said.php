<?php

namespace Baggage\Core\Loading;

/** Why a target refused an order: what is wrong in this project's words, and the target's own beside them. */
final readonly class Said
{
    /** A value that must be unique stands in another record. */
    public const TAKEN = 'taken';

    /** The record a reference names is not there. */
    public const NO_PARENT = 'unknown_parent';

    /** Other records still refer to this one. */
    public const REFERRED_TO = 'still_referred_to';

    public const TOO_LONG = 'too_long';

    public const OUT_OF_RANGE = 'out_of_range';

    public const MISSING = 'required';

    /** A check of the target's own does not hold. */
    public const CHECK = 'check_failed';

    public const REFUSED = 'refused';

    public const CODES = [
        self::TAKEN, self::NO_PARENT, self::REFERRED_TO, self::TOO_LONG, self::OUT_OF_RANGE, self::MISSING, self::CHECK, self::REFUSED,
    ];

    /**
     * @param  value-of<self::CODES>  $code
     * @param  list<string>  $fields  it is about; none for the record as a whole
     * @param  string  $message  in words a client can read
     * @param  string|null  $own  what the target itself said
     * @param  string|null  $by  target key of the record that has the value, where one is taken
     */
    public function __construct(
        public string $code,
        public array $fields,
        public string $message,
        public ?string $own = null,
        public ?string $by = null,
    ) {
    }
}
