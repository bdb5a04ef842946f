const lists = {
  aggregates:
    'avg bit_and bit_or bit_xor count group_concat json_arrayagg json_objectagg max min std stddev stddev_pop stddev_samp sum var_pop var_samp variance median percentile_cont percentile_disc',
  windows:
    'cume_dist dense_rank first_value lag last_value lead nth_value ntile percent_rank rank row_number',
  choices: 'if ifnull nullif coalesce greatest least interval isnull nvl nvl2 decode_oracle field elt',
  numbers:
    'abs acos asin atan atan2 ceil ceiling conv cos cot crc32 degrees exp floor format ln log log10 log2 mod pi pow power radians rand round sign sin sqrt tan truncate bit_count',
  texts:
    'ascii bin bit_length char char_length character_length chr concat concat_ws convert export_set find_in_set from_base64 hex insert instr lcase left length lengthb locate lower lpad ltrim make_set mid natural_sort_key oct octet_length ord position quote regexp_instr regexp_like regexp_replace regexp_substr repeat replace reverse right rpad rtrim sformat soundex space strcmp substr substring substring_index to_base64 to_char trim ucase unhex upper weight_string',
  dates:
    'add_months adddate addtime convert_tz curdate current_date current_time current_timestamp curtime date date_add date_format date_sub datediff day dayname dayofmonth dayofweek dayofyear extract from_days from_unixtime get_format hour last_day localtime localtimestamp makedate maketime microsecond minute month monthname now period_add period_diff quarter sec_to_time second str_to_date subdate subtime time time_format time_to_sec timediff timestamp timestampadd timestampdiff to_days to_seconds unix_timestamp utc_date utc_time utc_timestamp week weekday weekofyear year yearweek',
  json: 'json_array json_array_append json_array_insert json_compact json_contains json_contains_path json_depth json_detailed json_equals json_exists json_extract json_insert json_keys json_length json_loose json_merge json_merge_patch json_merge_preserve json_normalize json_object json_overlaps json_pretty json_query json_quote json_remove json_replace json_search json_set json_type json_unquote json_valid json_value',
  hashes: 'md5 sha sha1 sha2 uuid inet_aton inet_ntoa inet6_aton inet6_ntoa is_ipv4 is_ipv6',
  spatial:
    'st_area st_asgeojson st_astext st_aswkt st_centroid st_contains st_distance st_distance_sphere st_geomfromtext st_intersects st_length st_within st_x st_y point',
  types: 'cast binary',
};

/** The built-in functions of MariaDB and MySQL that work out a value from others, and do nothing else. */
export const readingFunctions: ReadonlySet<string> = new Set(Object.values(lists).join(' ').split(' '));
