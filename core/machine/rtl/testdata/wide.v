// More than 64 bits: a long shift register, a sum of all of it, a comparison, a number that counts in 80 bits.
module top(input clk, input in, output [3:0] low, output hit, output reg over);
  reg [99:0] chain = 100'd1;
  reg [79:0] n = 80'hffff_ffff_ffff_fff0_0000;
  initial over = 0;
  always @(posedge clk) begin
    chain <= {chain[98:0], in ^ chain[99]};
    n <= n + 80'd3;
    if (n < 80'd3) over <= 1;
  end
  assign hit = chain[99:90] == 10'b1010101010 || ^chain;
  assign low = n[79:76] + chain[3:0];
endmodule
